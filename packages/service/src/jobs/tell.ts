import { OutsideError } from '@monsoon/systems';
import { asc, eq } from 'drizzle-orm';
import type { App } from '../app.ts';
import type { LaneRow } from '../lanes/context.ts';
import type { Executed } from '../run/execute.ts';
import { systems } from '../storage/schema.ts';

/** A mail that waits to be sent. */
export interface Telling {
  to: string[];
  subject: string;
  text: string;
}

/**
 * What people are told of a run: that it asks something, that the guard held it, or that the lane begins to fail. One
 * mail for a run at most, and for a lane that keeps failing only the first.
 *
 * @param failures failed runs in a row, this one with them
 */
export function tellingOf(app: Pick<App, 'publicAddress'>, lane: LaneRow, run: string, result: Executed, failures: number): Telling | null {
  const { name, tell } = lane.definition;
  if (tell.length === 0) return null;
  const say = (subject: string, text: string, path: string): Telling => ({
    to: tell,
    subject: `${name}: ${subject}`,
    text: `${text}\n\n${app.publicAddress()}${path}\n`,
  });
  const asked = result.counts.held;
  if (result.state === 'held') return say('a run waits for you', `The guard held a run of "${name}": ${result.reason ?? ''}.`, `/runs/${run}`);
  if (result.state === 'failed' && failures === 1)
    return say(
      'trouble',
      `A run of "${name}" failed: ${result.reason ?? ''}. It is tried again by itself; you hear of it again when it has been well in between.`,
      `/lanes/${lane.slug}`,
    );
  if (asked === 0) return null;
  const questions = asked === 1 ? '1 question waits' : `${asked} questions wait`;
  return say(
    `${questions} for you`,
    `In the lane "${name}", ${questions} for a person. Until it is answered, both sides stay as they are.`,
    '/holds',
  );
}

/** Sends a mail through the first mail server that is connected. @throws OutsideError when it does not take it */
export async function sendTelling(app: App, mail: Telling): Promise<void> {
  const [row] = await app.db.select().from(systems).where(eq(systems.kind, 'mail')).orderBy(asc(systems.createdAt)).limit(1);
  const sender = row === undefined ? undefined : app.systems.open(row).mail;
  if (sender === undefined) return app.log.warn({ subject: mail.subject }, 'nobody could be told: no mail server is connected');
  try {
    await sender.send(mail);
  } catch (error) {
    // Thrown on, so that it is tried again a little later.
    if (error instanceof OutsideError) app.log.warn({ error: error.message }, 'a mail was not taken');
    throw error;
  }
}
