import { createHash, randomBytes } from 'node:crypto';
import type { App } from '../app.ts';
import { opens } from '../storage/check-key.ts';
import type { FeedRow } from './refresh.ts';

/** Below it stand the secret addresses; what is not one of them answers as an unknown one. */
export const FEEDS = '/feed';

/** 256 bits, which cannot be guessed. */
export const newFeedSecret = (): string => randomBytes(32).toString('base64url');
/** A feed is found by this: how long the search takes says nothing about the secret. */
export const feedHash = (secret: string): string => createHash('sha256').update(`feed ${secret}`).digest('hex');

/** The address to give away, and the same for programs that subscribe at a click; null where the key that sealed it is lost: renewed, it has one again. */
export function addressOf(app: App, feed: Pick<FeedRow, 'secret'>): { address: string; webcal: string } | null {
  if (!opens(app.vault, feed.secret)) return null;
  const { secret } = app.vault.open(feed.secret) as { secret: string };
  const address = `${app.publicAddress()}${FEEDS}/${secret}.ics`;
  return { address, webcal: address.replace(/^https?:/, 'webcal:') };
}
