import { beginConsent, callStack, endConsent, type OAuthSettings, OutsideError } from '@monsoon/systems';
import { and, eq, gt, lt, sql } from 'drizzle-orm';
import { enter } from '../access/activity.ts';
import { digest } from '../access/callers.ts';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';
import { consents, systems } from '../storage/schema.ts';
import { kindOf, type SystemRow } from './registry.ts';

/** Minutes that a person has to consent. */
export const CONSENT_MINUTES = 15;

/** How a system is authorised by a person; null when it is not. */
export function consentOf(app: App, row: SystemRow): OAuthSettings | null {
  return kindOf(row).consent?.(row.settings, app.vault.open(row.secrets)) ?? null;
}

const callsOf = (app: App, row: SystemRow) =>
  callStack({ addresses: { allowed: app.config.allowedAddresses }, authority: (row.settings as { authority?: string }).authority });

/** Who begins a consent, and in which browser, by the secret of its cookie; null: a program begins it. */
interface Beginner {
  by: string;
  via: string;
  browser: string | null;
}

/** Begins the consent of a person for a system. @returns where they go */
export async function begin(app: App, row: SystemRow, { by, via, browser }: Beginner, back: string): Promise<string> {
  const settings = consentOf(app, row);
  if (settings === null)
    throw new HttpProblem(422, 'Nothing to authorise', `"${row.slug}" is not authorised by a person's consent; its credentials are in its secrets`);
  if (!/^\/[^/\\]/.test(back) && back !== '/')
    throw new HttpProblem(422, 'The body does not fit', 'back: give a path of the console, such as /systems', [
      { pointer: '/back', reason: 'give a path of the console, such as /systems' },
    ]);
  const redirect = `${app.publicAddress()}/oauth/back`;
  const { call, close } = callsOf(app, row);
  try {
    const { url, state, verifier } = await beginConsent(call, settings, redirect);
    await app.db.delete(consents).where(lt(consents.expiresAt, sql`now()`));
    await app.db.insert(consents).values({
      state,
      system: row.id,
      verifier: app.vault.seal(verifier),
      redirect,
      back,
      by,
      via,
      browser: browser === null ? null : digest(browser),
      expiresAt: new Date(Date.now() + CONSENT_MINUTES * 60_000).toISOString(),
    });
    return url;
  } finally {
    await close();
  }
}

/**
 * Ends it, where the person comes back. Only the person who began it knows the state. It is good once, in the
 * browser that it was started in: no person can be tricked into authorising what another person started.
 * @param browser the secret of the browser's cookie
 * @returns where in the console they go on
 */
export async function end(
  app: App,
  query: URLSearchParams,
  browser: string | undefined,
): Promise<{ back: string; system: SystemRow; authorised: boolean }> {
  const state = query.get('state') ?? '';
  const [started] = await app.db
    .delete(consents)
    .where(and(eq(consents.state, state), gt(consents.expiresAt, sql`now()`)))
    .returning();
  if (started === undefined)
    throw new HttpProblem(
      400,
      'Not expected',
      `this consent was not started here, or it took more than ${CONSENT_MINUTES} minutes; start again from the page Systems`,
    );
  const [row] = await app.db.select().from(systems).where(eq(systems.id, started.system));
  const log = (outcome: 'done' | 'refused', detail: string) =>
    enter(app, { by: started.by, via: started.via, what: 'Authorise a system', of: `system ${row?.slug ?? started.system}`, detail, outcome });
  if (started.browser !== null && (browser === undefined || digest(browser) !== started.browser)) {
    await log('refused', 'it came back in another browser');
    throw new HttpProblem(400, 'Not expected', 'this consent was started in another browser; start again from the page Systems');
  }
  const settings = row === undefined ? null : consentOf(app, row);
  if (row === undefined || settings === null) throw new HttpProblem(404, 'No such system', 'the system that this consent is for is gone');
  const { call, close } = callsOf(app, row);
  try {
    const at = new URL(started.redirect);
    at.search = query.toString();
    const tokens = await endConsent(call, settings, at, { state, verifier: app.vault.open(started.verifier) as string });
    await app.db
      .update(systems)
      .set({ tokens: app.vault.seal(tokens), authorisedAt: new Date().toISOString() })
      .where(eq(systems.id, row.id));
    await app.announcer.announce(['systems']);
    await log('done', '');
    return { back: started.back, system: row, authorised: true };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    await log('refused', error.message.slice(0, 300));
    return { back: started.back, system: row, authorised: false };
  } finally {
    await close();
  }
}
