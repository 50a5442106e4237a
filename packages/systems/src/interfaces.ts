import type { Collection, FieldValues, OccurrenceFacts, RecordItem } from '@monsoon/core';

/** One step of connecting, for people to read as it happens. */
export interface ProbeStep {
  name: string;
  outcome: 'ok' | 'warning' | 'failed';
  detail: string;
}

export interface RecordPage {
  items: RecordItem[];
  /** ids of records that the system itself says are deleted */
  gone: string[];
  /** where the next pull goes on; on the last page only */
  cursor?: string | null;
  /** on the last page, though a cursor was given: the pages together list every record there is */
  complete?: true;
}

/** How a database reports what changed, where something can be put in place for it. */
export interface Tracking {
  /** `installed` reports changes at once and cheaply; `possible` could; null: nothing can be put in place there */
  state: 'installed' | 'possible' | null;
  /** what reports changes now, in words */
  now: string;
  /** statements for reading before anything is done, and for a database administrator to carry out instead */
  install: string;
  uninstall: string;
}

/** The records of a system. Every method rejects with OutsideError when the system does not do its part. */
export interface Records {
  /** Checks address, credentials and collections, step by step; ends after the first failed step. */
  probe(signal: AbortSignal): AsyncIterable<ProbeStep>;
  /** The collections with their typed fields, as they are now. @param only these are wanted: others may be left out where that is cheaper */
  describe(only?: readonly string[]): Promise<Collection[]>;
  /** Why something that is there cannot be used as a collection; null where it can, or is not there. */
  wanting?(collection: string): Promise<string | null>;
  /** All records, or with a cursor those changed since, each at least once; a listing that breaks off throws. */
  pull(collection: string, cursor: string | null, signal: AbortSignal): AsyncIterable<RecordPage>;
  /** One record as it is now; null when the system says that there is none. */
  read(collection: string, id: string, signal: AbortSignal): Promise<RecordItem | null>;
  /**
   * Makes a record and gives it as it is then. A collection with `retries: 'key'` finds the record of an earlier attempt
   * with the same key instead of making a second one.
   */
  create(collection: string, fields: FieldValues, key: string, signal: AbortSignal): Promise<RecordItem>;
  /** Changes some fields of a record that still is as it was read, and gives it as it is then. Throws `changed meanwhile` or `gone` otherwise. */
  change(collection: string, from: RecordItem, fields: FieldValues, signal: AbortSignal): Promise<RecordItem>;
  /** Removes a record that still is as it was read; nothing to remove is fine. Throws `changed meanwhile` otherwise. */
  remove(collection: string, from: RecordItem, signal: AbortSignal): Promise<void>;
  /** Where the system can be made to report its changes: what is in place, and what would be done. */
  tracking?(collection: string): Promise<Tracking>;
  /** Puts it in place, or takes it away again. */
  track?(collection: string, on: boolean): Promise<void>;
}

export interface CalendarInfo {
  /** the calendar's path on its server, percent-encoded, ending in "/" */
  href: string;
  name: string;
  colour: string | null;
  /** false when the server says that we may not write */
  writable: boolean;
}

export interface StoredEvent {
  href: string;
  etag: string | null;
  /** the calendar object as stored, lines ended by CRLF or LF; of an occurrence, what speaks for it */
  text: string;
  /** which occurrence of its object it is, where series are taken apart */
  occurrence?: OccurrenceFacts;
  /** why its series cannot be taken apart */
  unfit?: string;
}

/** One page of changes. */
export interface CalendarChanges {
  changed: { href: string; etag: string | null }[];
  /** hrefs that the server says are gone */
  removed: string[];
  /** where the next look goes on; on the last page only */
  cursor?: string | null;
  /** true when the pages together list everything there is; what is missing then may be deleted, or just not listed */
  complete: boolean;
  /** the cursor came from another calendar, which stood at this address before: that its events are gone says nothing */
  replaced?: true;
}

/** The calendars of a system. Every method rejects with OutsideError when the system does not do its part. */
export interface Calendars {
  probe(signal: AbortSignal): AsyncIterable<ProbeStep>;
  calendars(signal: AbortSignal): Promise<CalendarInfo[]>;
  /** Makes a calendar for events, or a task list; a refused colour is left out. */
  make(name: string, colour: string | null, signal: AbortSignal, holds?: 'events' | 'tasks'): Promise<CalendarInfo>;
  /** Gives a calendar another name or colour. Throws `refused` where that cannot be. */
  rename(calendar: string, to: { name?: string | undefined; colour?: string | undefined }, signal: AbortSignal): Promise<CalendarInfo>;
  /** What changed since the cursor, or everything; never fewer than the truth because of an old cursor. */
  changes(calendar: string, cursor: string | null, signal: AbortSignal): AsyncIterable<CalendarChanges>;
  /** Is it still the calendar that the cursor came from, as far as its server can tell? One that was deleted and made again is not. */
  isSame(calendar: string, cursor: string, signal: AbortSignal): Promise<boolean>;
  /** The events with this UID: none, one, or several if one was copied. */
  withUid(calendar: string, uid: string, signal: AbortSignal): Promise<StoredEvent[]>;
  /** At least the events that touch this span, in seconds since 1970; none where the server cannot look by time. */
  between(calendar: string, from: number, until: number, signal: AbortSignal): Promise<StoredEvent[]>;
  /** The events as they are now; null only for those whose absence a direct read confirmed. */
  read(calendar: string, hrefs: string[], signal: AbortSignal): Promise<Map<string, StoredEvent | null>>;
  /** Stores a new event under a name made from its UID. Throws `exists` (with the href if known) when it is there already. */
  create(calendar: string, uid: string, text: string, signal: AbortSignal): Promise<{ href: string }>;
  /** Replaces an event that still has this ETag. Throws `changed meanwhile` or `gone` otherwise. */
  change(href: string, etag: string, text: string, signal: AbortSignal): Promise<void>;
  /** Removes an event that still has this ETag; nothing to remove is fine. Throws `changed meanwhile` otherwise. */
  remove(href: string, etag: string, signal: AbortSignal): Promise<void>;
  /** Where `create` would store an event of that UID. */
  hrefFor(calendar: string, uid: string): string;
  /** Whose calendars they are, and whether the server writes to guests. Not there: it is not known. */
  scheduling?(signal: AbortSignal): Promise<Scheduling>;
}

/** What a calendar server says of inviting (RFC 6638, 2). */
export interface Scheduling {
  /** e-mail addresses of the account, under which it organises events */
  addresses: string[];
  /** the server invites the guests of events that it stores */
  invites: boolean;
}

export interface Message {
  to: string[];
  subject: string;
  text: string;
  html?: string | undefined;
  /** an iTIP message (RFC 5546) that goes along (RFC 6047) */
  calendar?: { method: string; text: string } | undefined;
  /** in angle brackets (RFC 5322, 3.6.4); the same mail sent again bears the same */
  messageId?: string | undefined;
  /** where answers go; the sender unless said */
  replyTo?: string | undefined;
  /** the name beside the sender's address */
  senderName?: string | undefined;
}

/** Mail out. */
export interface Mail {
  probe(signal: AbortSignal): AsyncIterable<ProbeStep>;
  /** Hands a mail over. Rejects with OutsideError when the server does not take it. */
  send(message: Message): Promise<void>;
  /** the address that mails come from */
  readonly sender: string;
}

/** How far a mailbox was read: the generation of its numbers, and the highest that was read (RFC 3501, 2.3.1.1). */
export interface MailCursor {
  validity: string;
  uid: number;
}

/** A mail that came in, as far as it can be an answer to an invitation. */
export interface IncomingMail {
  uid: number;
  /** the address of its From, in small letters; none where it names several, or none */
  from: string[];
  /** the receiving server says that its sender is not who it names */
  senderFailed: boolean;
  /** the text of its iTIP part (RFC 6047); null: it has none */
  calendar: string | null;
  /** why it was not read: it is too large, or not built as mails are */
  unread: string | null;
}

/** Mail in. */
export interface Mailbox {
  probe(signal: AbortSignal): AsyncIterable<ProbeStep>;
  /**
   * Hands over each mail that came since, the oldest first. Nothing is changed in the mailbox but that a mail of which `take`
   * says so is marked as read.
   * @param cursor null: only what comes from now on
   */
  read(cursor: MailCursor | null, take: (mail: IncomingMail) => Promise<boolean>, signal: AbortSignal): Promise<MailCursor>;
}

/** Where something changed, by our own doing where that is known: a collection of records, a calendar by its href, or the mailbox. */
export type Changed = ({ collection: string } | { calendar: string } | { mailbox: true }) & { ours?: boolean };

/** A connected system: what it offers, and how to let go of it. */
export interface OpenSystem {
  records?: Records;
  calendars?: Calendars;
  mail?: Mail;
  mailbox?: Mailbox;
  /** Tries everything that its settings say of it, reading only. */
  walk?(signal: AbortSignal): AsyncIterable<ProbeStep>;
  /** What a signed notice is about; null when its signature does not fit. */
  notice?(headers: Record<string, string | undefined>, body: Buffer): Notice | null;
  /** Listens for changes that the system reports by itself, or that a cheap look at it shows. @returns how to stop */
  watch?(changed: (what: Changed) => void, lost: (error: Error) => void): Promise<() => Promise<void>>;
  close(): Promise<void>;
}

/** What a notice is about, as far as it says: nothing more is believed of it. */
export interface Notice {
  collection: string | null;
  id: string | null;
}
