import { createCipheriv, createDecipheriv, hkdfSync, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { certain } from '@monsoon/core';

/** Seals what must not be readable in the database: AES-256-GCM, a fresh nonce each time. */
export interface Vault {
  seal(value: unknown): string;
  /** @throws Error when the text was sealed with another key or altered */
  open(sealed: string): unknown;
  /** a key of its own for something else than sealing (RFC 5869): 32 bytes, the same each time */
  derive(purpose: string): Buffer;
}

/**
 * The key comes from MONSOON_KEY (32 bytes in base64) or from a file made at the first start, readable by its owner
 * alone. Of several, separated by commas or lines, the first seals and each opens: so a key is changed without a stop.
 */
export function openVault(dataFolder: string, given: string | undefined): Vault {
  const keys = (given ?? keyFile(dataFolder))
    .split(/[\s,]+/)
    .filter(Boolean)
    .map((k) => Buffer.from(k, 'base64'));
  if (keys.length === 0 || keys.some((k) => k.length !== 32))
    throw new Error('MONSOON_KEY: give 32 bytes in base64, for example from: openssl rand -base64 32; several, separated by commas, to change it');
  const key = certain(keys[0], 'a vault is opened with a key');
  return {
    derive: (purpose) => Buffer.from(hkdfSync('sha256', key, '', `monsoon ${purpose}`, 32)),
    seal(value) {
      const nonce = randomBytes(12);
      const cipher = createCipheriv('aes-256-gcm', key, nonce);
      const sealed = Buffer.concat([cipher.update(JSON.stringify(value), 'utf8'), cipher.final()]);
      return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64');
    },
    open(text) {
      const all = Buffer.from(text, 'base64');
      for (const key of keys) {
        const decipher = createDecipheriv('aes-256-gcm', key, all.subarray(0, 12));
        decipher.setAuthTag(all.subarray(12, 28));
        try {
          return JSON.parse(Buffer.concat([decipher.update(all.subarray(28)), decipher.final()]).toString('utf8')) as unknown;
        } catch {
          // It may have been sealed with the next.
        }
      }
      throw new Error('a stored secret cannot be opened: the key is not the one it was sealed with');
    },
  };
}

function keyFile(folder: string): string {
  const file = join(folder, 'key');
  if (!existsSync(file)) {
    mkdirSync(folder, { recursive: true });
    writeFileSync(file, randomBytes(32).toString('base64'), { mode: 0o600, flag: 'wx' });
  }
  return readFileSync(file, 'utf8');
}
