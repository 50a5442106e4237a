import type { PreviewAnswer } from '@monsoon/contract';
import {
  type Attendee,
  invitationOf,
  judgeRecord,
  type LaneContext,
  momentLinks,
  noValues,
  type RecordItem,
  showAll,
  shownProperties,
  wholeInvitation,
} from '@monsoon/core';
import type { App } from '../app.ts';
import { compose } from '../invitations/compose.ts';
import { REPLIES } from '../invitations/reply-token.ts';
import { mailSender } from '../notifications/mails.ts';

/** The mail that a guest of the first sample with guests would get, as they would see it. */
export async function previewInvitation(app: App, context: LaneContext, records: readonly RecordItem[]): Promise<PreviewAnswer['invitation']> {
  if (context.definition.invitations.by !== 'mail') return null;
  for (const record of records) {
    for (const moment of context.definition.moments) {
      const shown = showAll(momentLinks(context, moment), record, context);
      const guests = (shown.values['attendees'] ?? []) as Attendee[];
      const [guest] = guests;
      if (guest === undefined || judgeRecord(context, record, moment, shown) !== null) continue;
      const properties = Object.fromEntries(Object.entries(shown.values).filter(([key]) => key in noValues));
      const { shows } = context.definition.invitations;
      const hidden = Object.fromEntries(shownProperties.filter((p) => !shows.includes(p)).map((p) => [p, null]));
      const known = invitationOf({ ...noValues, ...properties, ...hidden }, { uid: 'preview', occurrence: null, sequence: 0 });
      const sender = (await mailSender(app))?.address ?? 'monsoon@alder-wren.example';
      const mail = compose(
        {
          to: { email: guest.email.toLowerCase(), name: guest.name ?? null },
          method: 'REQUEST',
          uninvited: false,
          knewBefore: false,
          why: '',
          invitation: wholeInvitation(known, null),
          sequence: 0,
          messageId: '<preview@monsoon>',
          sender,
          replyAt: `${app.publicAddress()}${REPLIES}/...`,
          zone: null,
          now: context.now,
        },
        context.zones,
      );
      return {
        subject: mail.subject,
        to: guest.name === undefined ? guest.email : `${guest.name} <${guest.email}>`,
        html: mail.html ?? '',
        text: mail.text,
      };
    }
  }
  return null;
}
