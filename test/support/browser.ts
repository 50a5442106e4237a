import { type Browser, chromium } from 'playwright-core';

/** Debian's Chromium, without the calls home that it makes by itself. */
export const openBrowser = (): Promise<Browser> =>
  chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
