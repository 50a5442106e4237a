import type { Authentication } from '../http/authentication.ts';

export interface MailSettings {
  address: string;
  from: string;
  user?: string;
  /** where replies come in: an IMAP server */
  mailbox?: string;
  mailboxUser?: string;
  /** the name under which the receiving server says what it found out about senders (RFC 8601, 2.5) */
  senderCheck?: string;
  client?: string;
  authentication?: Authentication;
  timeout?: number;
  authority?: string;
}
