import * as yup from 'yup';
import { addressSetting, asked, type Kind, networkSettings } from '../kind.ts';
import type { MailSettings } from './settings.ts';
import { Smtp } from './smtp.ts';

export const mail: Kind = {
  label: 'Mail server (SMTP)',
  hint: 'Sends notices and invitations.',
  settings: yup
    .object({
      address: addressSetting(/^smtps?:\/\/[^\s/]+\/?$/, 'smtps://mail.alder-wren.example:465').meta(
        asked('smtp:// begins in the clear and goes on with TLS where it is offered; smtps:// begins with TLS'),
      ),
      from: yup.string().label('Sender').email().max(200).required().meta(asked('the address that mails come from')),
      user: yup.string().label('User').min(1).max(200),
      timeout: networkSettings.timeout,
      authority: networkSettings.authority,
    })
    .noUnknown()
    .required(),
  secrets: yup
    .object({ password: yup.string().label('Password').min(1).max(1000) })
    .noUnknown()
    .required(),
  check: (s: MailSettings, secrets: { password?: string }) =>
    (s.user === undefined) === (secrets.password === undefined)
      ? []
      : [
          {
            pointer: s.user === undefined ? '/settings/user' : '/secrets/password',
            reason: 'user and password belong together; give both or neither',
          },
        ],
  open(s: MailSettings, secrets: { password?: string }, options) {
    const smtp = new Smtp(s, secrets.password, options.addresses);
    return { mail: smtp, close: async () => smtp.close() };
  },
};
