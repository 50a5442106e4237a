import * as yup from 'yup';
import type { Authentication } from '../http/authentication.ts';
import { addressSetting, asked, type Kind, limitSettings, type NetworkSettings, networkSettings, openCalls } from '../kind.ts';
import { Feed, type FeedOptions } from './feed.ts';

type Settings = NetworkSettings & { user?: string; identity?: FeedOptions['identity']; limit?: number };

export const feed: Kind = {
  label: 'Calendar feed (iCalendar)',
  hint: 'A calendar that somebody publishes: read only.',
  settings: yup
    .object({
      address: addressSetting(/^(https?|webcals?):\/\/[^\s]+$/, 'https://holidays.example/public.ics').meta(asked('http, https or webcal')),
      user: yup.string().label('User').min(1).max(200).meta(asked('with a password, where the feed wants one')),
      identity: yup
        .string<FeedOptions['identity']>()
        .label('Identity')
        .oneOf(['auto', 'uid', 'content'])
        .default('auto')
        .meta(asked('how an event is known again: by its UID, or by what it says where the UIDs do not last; auto finds out', { rare: true })),
      limit: yup
        .number()
        .label('Size limit')
        .integer()
        .min(1)
        .max(256)
        .default(64)
        .meta(asked('megabytes', { rare: true })),
      ...networkSettings,
      allowance: limitSettings.allowance,
    })
    .noUnknown()
    .required(),
  secrets: yup
    .object({ password: yup.string().label('Password').min(1).max(1000) })
    .noUnknown()
    .required(),
  open(s: Settings, secrets: { password?: string }, options) {
    const authentication: Authentication | null = s.user === undefined ? null : { kind: 'basic' };
    const { call, close } = openCalls(s, authentication, { user: s.user, password: secrets.password }, options);
    const calendars = new Feed(call, { address: s.address, identity: s.identity ?? 'auto', limit: (s.limit ?? 64) * 1024 * 1024 });
    return {
      calendars,
      async close() {
        await calendars.close();
        await close();
      },
    };
  },
};
