import { createCipheriv, createDecipheriv, createHmac, timingSafeEqual } from 'node:crypto';
import type { Vault } from '../storage/secrets.ts';

/** Octets to which names are filled up: how long one is says little. */
const BLOCK = 48;
const TAG = 16;

/**
 * What readers who do not see everything are given in place of names, ETags and UIDs: texts that say nothing without the key of the
 * installation, and are the same each time.
 */
export class Disguise {
  readonly #key: Buffer;
  /** another with another key: what was given out with that one is of no use any more */
  readonly mark: string;

  constructor(vault: Vault) {
    this.#key = vault.derive('disguise');
    this.mark = this.#of('mark').toString('hex').slice(0, 8);
  }

  #of(...parts: string[]): Buffer {
    return createHmac('sha256', this.#key).update(JSON.stringify(parts)).digest();
  }

  /** The ETag of what is shown of an object (RFC 9110, 8.8.3). @param etag of what is stored */
  etag(calendar: string, sight: string, name: string, etag: string): string {
    return `"${this.#of('etag', calendar, sight, name, etag).toString('base64url').slice(0, 22)}"`;
  }

  /** A UUID under which UIDs are hidden (RFC 9562, 5.5). @param of what shows them: the id of a calendar or a feed */
  namespace(of: string): string {
    const hex = this.#of('uids', of).toString('hex');
    return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-4${hex.slice(13, 16)}-8${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
  }

  /**
   * A name that can be turned back with the key alone: encrypted with a nonce that comes of the name itself, so that it is always the
   * same (the construction of RFC 5297, with HMAC-SHA-256 and AES-256-CTR).
   */
  name(calendar: string, name: string): string {
    const plain = Buffer.from(name, 'utf8');
    const filled = Buffer.concat([plain, Buffer.alloc(BLOCK - (plain.length % BLOCK))]);
    const nonce = this.#nonce(calendar, filled);
    const cipher = createCipheriv('aes-256-ctr', this.#cipherKey(calendar), nonce);
    return `${Buffer.concat([nonce, cipher.update(filled), cipher.final()]).toString('base64url')}.ics`;
  }

  /** The name behind a disguised one; null for any other text. */
  nameBehind(calendar: string, disguised: string): string | null {
    const all = Buffer.from(/^([A-Za-z0-9_-]{1,2000})\.ics$/.exec(disguised)?.[1] ?? '', 'base64url');
    if (all.length <= TAG) return null;
    const nonce = all.subarray(0, TAG);
    const decipher = createDecipheriv('aes-256-ctr', this.#cipherKey(calendar), nonce);
    const filled = Buffer.concat([decipher.update(all.subarray(TAG)), decipher.final()]);
    if (!timingSafeEqual(nonce, this.#nonce(calendar, filled))) return null;
    return filled.toString('utf8').replace(/\0+$/, '');
  }

  #nonce = (calendar: string, filled: Buffer): Buffer => this.#of('name', calendar, filled.toString('base64')).subarray(0, TAG);
  #cipherKey = (calendar: string): Buffer => this.#of('cipher', calendar);
}
