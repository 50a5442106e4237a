import * as yup from 'yup';
import { type Authentication, authenticationSchema, type Credentials } from '../http/authentication.ts';
import { accessTokens } from '../http/oauth.ts';
import { addressSetting, asked, consentBy, type Kind, memoryTokens, networkSettings, oauthSecrets, oauthSettings, openCalls } from '../kind.ts';
import { Imap } from './imap.ts';
import type { MailSettings } from './settings.ts';
import { Smtp } from './smtp.ts';

interface Secrets extends Pick<Credentials, 'clientSecret'> {
  password?: string;
  mailboxPassword?: string;
}

/** Where tokens are had: the origin of the token's address. */
const tokenOrigin = ({ token }: Authentication): string => new URL(token ?? '').origin;

/** The inbox that answers come to, where there is one. */
function openMailbox(s: MailSettings, secrets: Secrets, options: Parameters<Kind['open']>[2]): { imap: Imap; close: () => Promise<void> } | null {
  if (s.mailbox === undefined) return null;
  const settings = {
    address: s.mailbox,
    user: s.mailboxUser ?? s.user ?? s.from,
    checker: s.senderCheck,
    timeout: s.timeout,
    authority: s.authority,
  };
  if (s.authentication === undefined)
    return { imap: new Imap(settings, secrets.mailboxPassword ?? secrets.password ?? '', options.addresses), close: async () => undefined };
  const address = tokenOrigin(s.authentication);
  const { call, close } = openCalls({ address }, null, {}, options);
  const credentials: Credentials = { client: s.client, clientSecret: secrets.clientSecret };
  const tokens = accessTokens(call, { authentication: s.authentication, address, credentials }, options.tokens ?? memoryTokens());
  return { imap: new Imap(settings, tokens, options.addresses), close };
}

export const mail: Kind = {
  label: 'Mail server (SMTP, IMAP)',
  hint: 'Sends notices and invitations, and reads what guests reply.',
  settings: yup
    .object({
      address: addressSetting(/^smtps?:\/\/[^\s/]+\/?$/, 'smtps://mail.alder-wren.example:465').meta(
        asked('smtp:// begins in the clear and goes on with TLS where it is offered; smtps:// begins with TLS'),
      ),
      from: yup.string().label('Sender').email().max(200).required().meta(asked('the address that mails come from')),
      user: yup.string().label('User').min(1).max(200),
      mailbox: yup
        .string()
        .label('Mailbox')
        .max(2000)
        .matches(/^imaps?:\/\/[^\s/]+\/?$/, '${path} is not an address such as imaps://mail.alder-wren.example:993')
        .meta(asked('where replies of guests come in: the inbox of the sender, imaps:// or imap://; only replies are read')),
      mailboxUser: yup.string().label('User of the mailbox').min(1).max(200).meta(asked('unless it is the same user')),
      senderCheck: yup
        .string()
        .label('Server that checks senders')
        .max(253)
        .matches(/^[A-Za-z0-9.-]+$/, '${path} is not a name such as mx.alder-wren.example')
        .meta(
          asked('the name at the beginning of its Authentication-Results (RFC 8601): replies whose sender it found wrong are not believed', {
            rare: true,
          }),
        ),
      ...oauthSettings,
      authentication: authenticationSchema
        .label('Authentication of the mailbox')
        .meta(asked('with OAuth 2.0 (kind: oauth2): the grant, where to consent, and where tokens are had, in full', { lines: 5, rare: true })),
      timeout: networkSettings.timeout,
      authority: networkSettings.authority,
    })
    .noUnknown()
    .required(),
  secrets: yup
    .object({
      password: yup.string().label('Password').min(1).max(1000),
      mailboxPassword: yup.string().label('Password of the mailbox').min(1).max(1000).meta(asked('unless it is the same')),
      ...oauthSecrets,
    })
    .noUnknown()
    .required(),
  check(s: MailSettings, secrets: Secrets) {
    const wrong = [];
    if ((s.user === undefined) !== (secrets.password === undefined))
      wrong.push({
        pointer: s.user === undefined ? '/settings/user' : '/secrets/password',
        reason: 'user and password belong together; give both or neither',
      });
    if (s.authentication !== undefined && (s.authentication.kind !== 'oauth2' || !URL.canParse(s.authentication.token ?? '')))
      wrong.push({ pointer: '/settings/authentication', reason: 'a mailbox takes a password, or kind: oauth2 with the token address in full' });
    if (s.mailbox !== undefined && s.authentication === undefined && secrets.mailboxPassword === undefined && secrets.password === undefined)
      wrong.push({ pointer: '/secrets/mailboxPassword', reason: 'the mailbox needs a password; give it' });
    return wrong;
  },
  consent: (s: MailSettings, secrets: Secrets) =>
    s.authentication === undefined
      ? null
      : consentBy(s.authentication, { address: tokenOrigin(s.authentication) }, { client: s.client, clientSecret: secrets.clientSecret }),
  open(s: MailSettings, secrets: Secrets, options) {
    const smtp = new Smtp(s, secrets.password, options.addresses);
    const box = openMailbox(s, secrets, options);
    return {
      mail: smtp,
      ...(box === null ? {} : { mailbox: box.imap, watch: async (changed) => box.imap.watch(() => changed({ mailbox: true })) }),
      async close() {
        smtp.close();
        await box?.close();
      },
    };
  },
};
