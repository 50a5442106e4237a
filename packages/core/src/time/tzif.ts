import { certain } from '../certain.ts';
import { countUntil } from './count-until.ts';
import { type PosixRule, parsePosixRule, posixOffset } from './posix-rule.ts';
import type { Period, Zone } from './zones.ts';

/**
 * Reads one compiled time zone (TZif versions 1 to 4, RFC 9636).
 *
 * @param name the IANA name the file stands for, e.g. `Europe/London`
 * @param bytes the whole file
 * @throws RangeError when the bytes are not TZif, or end early
 */
export function parseTzif(name: string, bytes: Uint8Array): Zone {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const first = readHeader(view, 0);
  if (first.version === 0) return readBlock(name, view, 44, first, 4, null);
  // Version 2 and later repeat the data with 64-bit times behind the 32-bit block, which is skipped.
  const second = readHeader(view, 44 + blockLength(first, 4));
  const start = 44 + blockLength(first, 4) + 44;
  const footer = new TextDecoder().decode(bytes.subarray(start + blockLength(second, 8))).trim();
  return readBlock(name, view, start, second, 8, footer === '' ? null : parsePosixRule(footer));
}

interface Header {
  version: number;
  utCount: number;
  standardCount: number;
  leapCount: number;
  timeCount: number;
  typeCount: number;
  charCount: number;
}

function readHeader(view: DataView, at: number): Header {
  if (view.byteLength < at + 44 || view.getUint32(at) !== 0x545a6966) throw new RangeError('not a TZif file');
  const count = (index: number) => view.getUint32(at + 20 + index * 4);
  return {
    version: view.getUint8(at + 4),
    utCount: count(0),
    standardCount: count(1),
    leapCount: count(2),
    timeCount: count(3),
    typeCount: count(4),
    charCount: count(5),
  };
}

const blockLength = (h: Header, timeSize: number) =>
  h.timeCount * (timeSize + 1) + h.typeCount * 6 + h.charCount + h.leapCount * (timeSize + 4) + h.standardCount + h.utCount;

function readBlock(name: string, view: DataView, start: number, h: Header, size: 4 | 8, rule: PosixRule | null): Zone {
  const typesAt = start + h.timeCount * (size + 1);
  const charsAt = typesAt + h.typeCount * 6;
  const types = Array.from({ length: h.typeCount }, (_, i) => {
    const at = typesAt + i * 6;
    let abbreviation = '';
    for (let c = charsAt + view.getUint8(at + 5); view.getUint8(c) !== 0; c++) abbreviation += String.fromCharCode(view.getUint8(c));
    return { offset: view.getInt32(at), daylight: view.getUint8(at + 4) === 1, abbreviation };
  });
  const times: number[] = [];
  const kinds: number[] = [];
  for (let i = 0; i < h.timeCount; i++) {
    times.push(size === 8 ? Number(view.getBigInt64(start + i * 8)) : view.getInt32(start + i * 4));
    kinds.push(view.getUint8(start + h.timeCount * size + i));
  }
  const initial = types.find((t) => !t.daylight) ?? types[0];
  if (initial === undefined) throw new RangeError('a TZif file without local time types');
  const last = times.at(-1);
  const timeAt = (at: number): number => certain(times[at], 'it lies within the table');
  const find = (instant: number): Period => {
    if (rule !== null && (last === undefined || instant >= last)) return posixOffset(rule, instant);
    const passed = countUntil(times.length, timeAt, instant);
    if (passed === 0) return { ...initial, from: null, until: times[0] ?? null };
    return { ...certain(types[kinds[passed - 1] ?? -1], 'each time has a type'), from: timeAt(passed - 1), until: times[passed] ?? null };
  };
  const covers = ({ from, until }: Period, instant: number) => (from === null || instant >= from) && (until === null || instant < until);
  // Questions are about the same few half years, again and again.
  const recent = [find(0)];
  return {
    name,
    period(instant) {
      for (const known of recent) if (covers(known, instant)) return known;
      const found = find(instant);
      recent.unshift(found);
      if (recent.length > 8) recent.pop();
      return found;
    },
  };
}
