import type { Authentication } from '../http/authentication.ts';

export interface MailSettings {
  address: string;
  from: string;
  user?: string;
  /** where replies come in: an IMAP server */
  mailbox?: string;
  mailboxUser?: string;
  client?: string;
  authentication?: Authentication;
  timeout?: number;
  authority?: string;
}
