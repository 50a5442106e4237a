import { createHmac, timingSafeEqual } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import type { Notice } from '../interfaces.ts';
import type { WebhookDescriptor } from './descriptor.ts';
import { at } from './read-record.ts';

/**
 * Checks a notice's signature as the descriptor tells it. @returns null when it is not from who it says
 * @param body as it came
 */
export function readNotice(
  descriptor: WebhookDescriptor | undefined,
  secret: string,
  headers: Record<string, string | undefined>,
  body: Buffer,
): Notice | null {
  const how = descriptor ?? { signature: 'standard-webhooks' };
  if (!isSigned(how, secret, headers, body)) return null;
  let json: unknown;
  try {
    json = JSON.parse(body.toString('utf8'));
  } catch {
    return { collection: null, id: null };
  }
  const text = (pointer: string | undefined) => {
    const value = pointer === undefined ? undefined : at(json, pointer);
    return typeof value === 'string' || typeof value === 'number' ? String(value).slice(0, 500) : null;
  };
  const type = text(how.type);
  const fits = (pattern: string) => (pattern.endsWith('*') ? type!.startsWith(pattern.slice(0, -1)) : type === pattern);
  const collection = type === null ? null : (Object.entries(how.types ?? {}).find(([pattern]) => fits(pattern))?.[1] ?? null);
  return { collection, id: text(how.id) };
}

function isSigned(how: WebhookDescriptor, secret: string, headers: Record<string, string | undefined>, body: Buffer): boolean {
  if (how.signature === 'standard-webhooks') {
    try {
      new Webhook(secret).verify(body, headers as Record<string, string>);
      return true;
    } catch {
      return false;
    }
  }
  const given = headers[how.header!.toLowerCase()];
  if (given === undefined || !given.startsWith(how.prefix ?? '')) return false;
  const wanted =
    how.signature === 'secret'
      ? secret
      : createHmac(how.signature === 'hmac-sha1' ? 'sha1' : 'sha256', secret)
          .update(body)
          .digest(how.encoding ?? 'hex');
  const [a, b] = [Buffer.from(given.slice((how.prefix ?? '').length)), Buffer.from(wanted)];
  return a.length === b.length && timingSafeEqual(a, b);
}
