import { lookup } from 'node:dns/promises';
import { isIP } from 'node:net';
import { connect, rootCertificates, type TLSSocket } from 'node:tls';
import type { ProbeStep } from '../interfaces.ts';
import { clockStep } from '../probe-steps.ts';
import { type AddressRules, checkedLookup, ForbiddenAddress, mayCall } from './addresses.ts';
import { callStack } from './stack.ts';

/** Days before its end at which a certificate is worth a word. */
const SOON = 21;
const PATIENCE = 10_000;

/**
 * What can be said of an address before anybody signs in: its name, whether it may be called, its certificate, its clock.
 * Ends after the first failure.
 *
 * @param authority a certificate authority of one's own, in PEM
 */
export async function* probeAddress(address: string, rules: AddressRules, authority: string | undefined): AsyncIterable<ProbeStep> {
  const url = new URL(address.replace(/^webcals?:/i, 'https:'));
  const host = url.hostname.replace(/^\[|\]$/g, '');
  const named = await probeName(host, rules);
  yield named;
  if (named.outcome === 'failed') return;
  // A webcal: address may be served without TLS; only asking shows it.
  if (/^webcals?:/i.test(address)) return;
  if (url.protocol === 'https:') {
    const step = await probeCertificate(host, Number(url.port) || 443, rules, authority);
    yield step;
    if (step.outcome === 'failed') return;
  } else {
    const near = isIP(host) !== 0 ? /^(127\.|::1$)/.test(host) : host === 'localhost';
    yield {
      name: 'TLS',
      outcome: near ? 'ok' : 'warning',
      detail: near ? 'none, on this machine alone' : 'none: what is said crosses the network in the clear; use https:// where there is',
    };
  }
  const clock = await probeClock(url, rules, authority);
  if (clock !== null) yield clock;
}

async function probeName(host: string, rules: AddressRules): Promise<ProbeStep> {
  const forbidden = (what: string): ProbeStep => ({
    name: 'address',
    outcome: 'failed',
    detail: `${what} is a private or local address, which this installation does not call; its operator can allow it by name in MONSOON_ALLOW_ADDRESSES`,
  });
  if (isIP(host) !== 0) return mayCall(host, host, rules) ? { name: 'address', outcome: 'ok', detail: `${host} may be called` } : forbidden(host);
  try {
    const found = await lookup(host, { all: true });
    const fine = found.filter((f) => mayCall(host, f.address, rules));
    const all = found.map((f) => f.address).join(', ');
    return fine.length === 0
      ? forbidden(`${host} (${all})`)
      : { name: 'name lookup', outcome: 'ok', detail: `${host} is ${fine.map((f) => f.address).join(', ')}` };
  } catch {
    return {
      name: 'name lookup',
      outcome: 'failed',
      detail: `the name ${host} is not known: is it spelled right, and can this machine look names up?`,
    };
  }
}

function probeCertificate(host: string, port: number, rules: AddressRules, authority: string | undefined): Promise<ProbeStep> {
  return new Promise((resolve) => {
    const failed = (detail: string) => resolve({ name: 'TLS', outcome: 'failed', detail });
    const socket: TLSSocket = connect({
      host,
      port,
      lookup: checkedLookup(rules),
      timeout: PATIENCE,
      // Looked at and told, not trusted: nothing is said over this connection.
      rejectUnauthorized: false,
      ...(isIP(host) === 0 ? { servername: host } : {}),
      ...(authority === undefined ? {} : { ca: [...rootCertificates, authority] }),
    });
    socket.once('timeout', () => {
      socket.destroy();
      failed(`${host}:${port} did not answer within ${PATIENCE / 1000} seconds`);
    });
    socket.once('error', (error: Error & { code?: string }) =>
      failed(
        error instanceof ForbiddenAddress
          ? error.message
          : `there is no TLS at ${host}:${port} (${error.code ?? error.message}); is it http://, or another port?`,
      ),
    );
    socket.once('secureConnect', () => {
      const { issuer, valid_to: until } = socket.getPeerCertificate();
      const wrong = socket.authorized ? null : String(socket.authorizationError);
      const protocol = socket.getProtocol();
      socket.destroy();
      if (wrong !== null)
        return failed(`the certificate is not trusted (${wrong}): if it is of an authority of your own, give that authority's certificate`);
      const days = Math.floor((Date.parse(until) - Date.now()) / 86_400_000);
      const found = `${protocol ?? 'TLS'}, a certificate of ${[issuer?.O ?? issuer?.CN].flat().join(' ') || 'no one named'}`;
      resolve({
        name: 'TLS',
        outcome: days < SOON ? 'warning' : 'ok',
        detail: days < SOON ? `${found} that ends in ${days} days` : `${found}, good until ${new Date(until).toISOString().slice(0, 10)}`,
      });
    });
  });
}

/** Null when the server does not tell its time, or is not there: what comes next says why. */
async function probeClock(url: URL, rules: AddressRules, authority: string | undefined): Promise<ProbeStep | null> {
  const { call, close } = callStack({ addresses: rules, timeout: PATIENCE, authority, anonymous: true });
  try {
    const before = Date.now();
    const answer = await call({ method: 'HEAD', url: url.href, headers: {} });
    const theirs = Date.parse(answer.headers['date'] ?? '');
    if (Number.isNaN(theirs)) return null;
    // The header has whole seconds.
    const off = Math.round((theirs + 500 - (before + Date.now()) / 2) / 1000);
    return clockStep(off, 1);
  } catch {
    return null;
  } finally {
    await close();
  }
}
