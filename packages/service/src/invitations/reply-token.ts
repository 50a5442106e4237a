import type { Vault } from '../storage/secrets.ts';

/** Below it guests reply without signing in. */
export const REPLIES = '/reply';

/** Which guest of which event a link is for. */
export interface ReplyTo {
  pair: string;
  email: string;
  /** of the message that the link came with */
  sequence: number;
}

/** Days for which a link in a mail can be used. */
const KNOWN_FOR = 180;

/** What a link carries: sealed, so that it can neither be guessed nor altered, and good for a time. */
export function replyToken(vault: Vault, to: ReplyTo, now: number): string {
  const sealed = vault.seal({ reply: [to.pair, to.email, to.sequence], until: now + KNOWN_FOR * 86_400_000 });
  return Buffer.from(sealed, 'base64').toString('base64url');
}

/** @returns null for a link that was altered, was never given, or is too old */
export function readReplyToken(vault: Vault, token: string, now: number): ReplyTo | null {
  if (!/^[A-Za-z0-9_-]{40,2000}$/.test(token)) return null;
  try {
    const { reply, until } = vault.open(Buffer.from(token, 'base64url').toString('base64')) as { reply?: [string, string, number?]; until?: number };
    return Array.isArray(reply) && typeof until === 'number' && until > now ? { pair: reply[0], email: reply[1], sequence: reply[2] ?? 0 } : null;
  } catch {
    return null;
  }
}
