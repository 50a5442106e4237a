import { ServiceProblem } from '@monsoon/contract/client';
import { Command, CommanderError } from 'commander';
import { accessCommands } from './commands/access.ts';
import { agendaCommand } from './commands/agenda.ts';
import { arrangeCommands } from './commands/arrange.ts';
import { attentionCommand } from './commands/attention.ts';
import { calendarCommands, feedCommands } from './commands/calendars.ts';
import { demoCommands } from './commands/demo.ts';
import { guestCommands } from './commands/guests.ts';
import { laneFileCommands } from './commands/lane-files.ts';
import { findings, laneCommands } from './commands/lanes.ts';
import { operatingCommands } from './commands/operating.ts';
import { peopleCommands } from './commands/people.ts';
import { runCommands } from './commands/runs.ts';
import { systemContentCommands } from './commands/system-contents.ts';
import { systemCommands } from './commands/systems.ts';
import { watchingCommands } from './commands/watching.ts';
import { WrongInput } from './input.ts';
import { exits, printAside } from './output.ts';

const program = new Command('monsoon')
  .description('Keeps business records and calendars telling the same story.\nCalled alone, it shows what needs attention.')
  .version('0.1.0')
  .option('--url <address>', 'where the service is (else MONSOON_URL, else the nearest .monsoon/cli.json)')
  .option('--json', 'for programs: JSON in place of tables')
  .showHelpAfterError('(monsoon --help shows what there is)')
  .addHelpText(
    'after',
    '\nExit codes: 0 fine, 1 failed, 2 wrong usage, 3 something is held.\n\nExamples:\n  monsoon\n  monsoon forecast tuning-visits\n  monsoon why tuning-visits V-1042',
  )
  // A group alone lists what it has; a word that is none of its commands would otherwise reach that list.
  .hook('preSubcommand', (_program, group) => {
    const word = program.args[1];
    const list = group.commands.find((c) => c.name() === 'list');
    if (word === undefined || word.startsWith('-') || list === undefined || list.registeredArguments.length > 0) return;
    const names = [...group.commands.map((c) => c.name()), 'help'];
    if (!names.includes(word) && !group.commands.some((c) => c.aliases().includes(word)))
      program.error(`error: ${group.name()} has no command "${word}"; it has ${names.join(', ')}`, { exitCode: exits.usage });
  })
  .exitOverride();
systemContentCommands(program, systemCommands(program));
laneCommands(program);
arrangeCommands(program);
laneFileCommands(program);
runCommands(program);
agendaCommand(program);
calendarCommands(program);
feedCommands(program);
accessCommands(program);
peopleCommands(program);
watchingCommands(program);
guestCommands(program);
operatingCommands(program);
demoCommands(program);
// Last: it takes any words, to name the one that is no command, and commands made after it would take them too.
attentionCommand(program);

// `monsoon x list | head` ends quietly when the reader has seen enough.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
});

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? exits.fine : exits.usage;
  else {
    printAside(`monsoon: ${(error as Error).message}`);
    if (error instanceof ServiceProblem && error.problems.length > 1) for (const line of findings(error)) printAside(line);
    process.exitCode =
      error instanceof WrongInput || (error instanceof ServiceProblem && [400, 404, 409, 422].includes(error.status)) ? exits.usage : exits.failed;
  }
}
