import { type GuestAnswer, type GuestState, guestStates } from '@monsoon/contract';
import { type Command, Option } from 'commander';
import { withContext } from '../context.ts';
import { WrongInput } from '../input.ts';
import { paint, print, printJson, table, time } from '../output.ts';

const sayMessage = (g: GuestAnswer): string => {
  if (g.state === 'doubtful' || g.state === 'refused') return paint.failed(`${g.state}: ${g.trouble ?? ''}`);
  if (g.state === 'waiting')
    return `${g.message ?? 'a message'} waits until ${time(g.dueAt)}${g.trouble === null ? '' : paint.failed(` (${g.trouble})`)}`;
  return g.sentAt === null ? g.state : `${g.message ?? 'sent'} ${time(g.sentAt)}`;
};
const sayReply = (g: GuestAnswer): string =>
  g.reply === null
    ? ''
    : `${g.reply} ${g.replyVia === 'calendar' ? 'on the calendar' : `by ${g.replyVia ?? ''}`}${g.comment === null ? '' : `: ${g.comment}`}`;

/** The guests of a lane: the messages they got, and what they replied. */
export function guestCommands(program: Command): void {
  const group = program.command('guests').description('guests of the events of a lane: the messages they got, and what they replied');
  group
    .command('list <lane>', { isDefault: true })
    .description('each guest, with the last message and the reply')
    .addOption(new Option('--state <state>', 'only those in this state').choices([...guestStates]))
    .option('--log', 'with what happened')
    .action(
      withContext(program, async ({ client, json }, lane: string, o: { state?: GuestState; log?: boolean }) => {
        const found = await client.guests(lane, { ...(o.state === undefined ? {} : { state: o.state }), limit: 500 });
        if (json) return printJson(found);
        const { counts: c } = found;
        print(
          `${c.guests} guests: ${c.accepted} accepted, ${c.declined} declined, ${c.tentative} tentative, ${c.open} have not replied, ${c.known} got no message`,
        );
        if (c.waiting + c.doubtful + c.refused > 0)
          print(paint.held(`${c.waiting} messages wait, ${c.doubtful} are doubtful, ${c.refused} were refused`));
        print(
          table(
            ['Item', 'Title', 'Guest', 'Message', 'Reply'],
            found.items.map((g) => [g.item, g.label, g.name === null ? g.email : `${g.name} <${g.email}>`, sayMessage(g), sayReply(g)]),
            o.state === undefined ? 'No guests: a lane lists them once it invites (invitations in its lane file).' : 'No guests in this state.',
          ),
        );
        if (o.log === true)
          for (const g of found.items)
            for (const l of g.log) print(`${time(l.at)}  ${g.item}  ${g.email}  ${l.what}${l.detail === '' ? '' : ` (${l.detail})`}`);
        if (found.next !== null) print(paint.dim('There are more: --json with the interface pages through them.'));
      }),
    );
  group
    .command('settle <lane> <item> <email>')
    .description('say of a message that is doubtful or was refused that it counts as sent, or have it sent again')
    .addOption(new Option('--as <how>').choices(['sent', 'again']).makeOptionMandatory())
    .action(
      withContext(program, async ({ client, json }, lane: string, item: string, email: string, o: { as: 'sent' | 'again' }) => {
        const { guests } = await client.item(lane, item);
        const guest = guests.find((g) => g.email === email.toLowerCase());
        if (guest === undefined)
          throw new WrongInput(`"${email}" is no guest of ${item}; guests are ${guests.map((g) => g.email).join(', ') || '(none)'}`);
        const settled = await client.settleGuest(lane, guest, o.as);
        if (json) printJson(settled);
        else print(`${settled.email}: ${sayMessage(settled)}`);
      }),
    );
}
