import { editEvent, foldedLine, readEvent, textLimits, UnreadableEvent, UnwritableEvent, unescapeText } from '@monsoon/core';
import { expect } from 'chai';
import { zones } from './engine-fixtures.ts';
import { event, object } from './object-fixtures.ts';

const start = 'DTSTART:20261201T190000Z';
const read = (...lines: string[]) => readEvent(event(start, ...lines), zones);
const titleOf = (...lines: string[]) => read(...lines).values.title;
/** The text after a change of the title, which every other line must outlive to the letter. */
const renamed = (text: string) => editEvent(text, { title: 'New' }, { zones, now: '2026-11-23T08:00:00Z' });
const refuses = (text: string, reason: string) => expect(() => readEvent(text, zones), text.slice(0, 200)).to.throw(UnreadableEvent, reason);
const bare = (...lines: string[]) => lines.join('\r\n');

describe('content lines (RFC 5545, 3.1)', () => {
  it('are continued by a blank or a tab, which is no part of them', () => {
    expect(titleOf('SUMMARY:Choir', '  in the hall')).to.equal('Choir in the hall');
    expect(titleOf('SUMMARY:Choir', '\t in', ' the', ' hall')).to.equal('Choir inthehall');
    expect(titleOf('SUM', ' MARY:Choir')).to.equal('Choir');
  });

  it('end with CRLF, and with what else writers use', () => {
    for (const end of ['\r\n', '\n', '\r'])
      expect(readEvent(event(start, 'SUMMARY:Choir', ' master').replaceAll('\r\n', end), zones).values.title, JSON.stringify(end)).to.equal(
        'Choirmaster',
      );
    expect(readEvent(`\r\n${event(start, '', 'SUMMARY:Choir', '', '')}`, zones).values.title, 'empty lines').to.equal('Choir');
    expect(readEvent(event(start, 'SUMMARY:Choir\rLOCATION:Hall'), zones).values, 'both in one text').to.include({
      title: 'Choir',
      location: 'Hall',
    });
  });

  it('have a name in any letters, parameters with lists and quotes, and a value', () => {
    expect(titleOf('summary:Choir')).to.equal('Choir');
    expect(titleOf('X-9:other', 'Summary;language=en;X-A=1,2,"3:;,4":Choir: the alto')).to.equal('Choir: the alto');
    expect(titleOf('SUMMARY;X=:Choir')).to.equal('Choir');
    expect(read('ATTENDEE;cn="Marsh, Una";X="a","b";PARTSTAT=ACCEPTED:mailto:una@a.example').values.attendees).to.deep.equal([
      { email: 'una@a.example', name: 'Marsh, Una', response: 'accepted' },
    ]);
  });

  it('are refused by number where they are none', () => {
    refuses(event(start, ':no name'), 'line 6: no property name');
    refuses(event(start, '_X:1'), 'line 6: no property name');
    refuses(event(start, 'SUMMARY'), 'line 6: "SUMMARY" has no value');
    refuses(event(start, 'SUMMARY Choir'), 'line 6: "SUMMARY" has no value');
    refuses(event(start, 'SUMMARY;LANGUAGE:Choir'), 'line 6: a parameter without a value');
    refuses(event(start, 'SUMMARY;X="a:Choir'), 'line 6: a quoted parameter value is not closed');
    refuses(event(start, 'SUMMARY;X="a"b:Choir'), 'line 6: "SUMMARY" has no value');
    refuses(event(start, 'SUMMARY;X=a'), 'line 6: "SUMMARY" has no value');
    refuses(bare('UID:a', 'BEGIN:VEVENT'), 'line 1: a property outside of every component');
    refuses(bare('END:VEVENT'), 'line 1: END:VEVENT closes nothing');
    refuses(bare('BEGIN:VEVENT', 'END:VCALENDAR'), 'line 2: END:VCALENDAR closes nothing');
    refuses(bare('BEGIN:VCALENDAR', 'BEGIN:VEVENT', 'END:VEVENT'), 'VCALENDAR is not ended');
    expect(readEvent(bare('begin: vevent', 'UID:a', start, 'end:Vevent '), zones).uid).to.equal('a');
  });
});

describe('the limits of a text', () => {
  const nested = (depth: number) =>
    event(start, ...Array.from({ length: depth }, () => 'BEGIN:X-PART'), ...Array.from({ length: depth }, () => 'END:X-PART'));
  const parts = (name: string, count: number) => event(start, ...Array.from({ length: count }, () => [`BEGIN:${name}`, `END:${name}`]).flat());

  it('are reached, and not passed', () => {
    // The calendar and its event are two levels, and two components.
    expect(readEvent(nested(textLimits.depth - 2), zones).uid).to.equal('rehearsal');
    refuses(nested(textLimits.depth - 1), `line ${5 + textLimits.depth - 1}: components are nested too deep`);
    expect(readEvent(parts('X-PART', textLimits.components - 2), zones).uid).to.equal('rehearsal');
    refuses(parts('X-PART', textLimits.components - 1), `there are more than ${textLimits.components} components`);
    expect(readEvent(parts('VALARM', textLimits.alarms), zones).uid).to.equal('rehearsal');
    refuses(parts('VALARM', textLimits.alarms + 1), `line ${6 + 2 * textLimits.alarms}: there are more than ${textLimits.alarms} alarms`);
    const properties = (count: number) => event(start, ...Array.from({ length: count }, () => 'X-A:1'));
    expect(readEvent(properties(textLimits.properties - 2), zones).uid).to.equal('rehearsal');
    refuses(properties(textLimits.properties - 1), `a component has more than ${textLimits.properties} properties`);
  });

  it('hold for the text as a whole, by characters and by lines', () => {
    const padded = (length: number) => {
      const text = event(start, 'X-PAD:');
      return text.replace('X-PAD:', `X-PAD:${'x'.repeat(length - text.length)}`);
    };
    expect(readEvent(padded(textLimits.event), zones).uid).to.equal('rehearsal');
    refuses(padded(textLimits.event + 1), `the event has ${textLimits.event + 1} characters; ${textLimits.event} are read`);
    const lines = (count: number) => event(start).replace(/\r\n$/, '\r\n'.repeat(count - event(start).split('\r\n').length + 2));
    expect(readEvent(lines(textLimits.physicalLines - 1), zones).uid).to.equal('rehearsal');
    refuses(lines(textLimits.physicalLines), `the event has more than ${textLimits.physicalLines} lines`);
  });

  it('keep a line that is too long as it is, unless it has to be understood', () => {
    const long = 'x'.repeat(textLimits.line);
    expect(titleOf(`SUMMARY:${long.slice('SUMMARY:'.length)}`)).to.have.length(textLimits.line - 'SUMMARY:'.length);
    refuses(event(start, `SUMMARY:${long}`), `line 6 has ${textLimits.line + 8} characters; ${textLimits.line} are read`);
    refuses(event(start, `_X${long}`), 'line 6 has');
    const folded = bare(`x-plan;FMTTYPE=a/b:${long}`, ' y');
    expect(renamed(event(start, folded))).to.include(`\r\n${folded}\r\n`);
  });
});

describe('a line that is written', () => {
  it('has at most 75 octets, and breaks between characters', () => {
    const fits = `X:${'a'.repeat(73)}`;
    expect(foldedLine(fits)).to.equal(fits);
    expect(foldedLine(`${fits}b`)).to.equal(`${fits}\r\n b`);
    expect(foldedLine(`X:${'é'.repeat(36)}`)).to.equal(`X:${'é'.repeat(36)}`);
    expect(foldedLine(`X:${'é'.repeat(37)}`)).to.equal(`X:${'é'.repeat(36)}\r\n é`);
    expect(foldedLine(`${'a'.repeat(74)}🎹b`)).to.equal(`${'a'.repeat(74)}\r\n 🎹b`);
    // The blank that continues a line counts.
    expect(foldedLine('a'.repeat(75 + 74 + 1))).to.equal(`${'a'.repeat(75)}\r\n ${'a'.repeat(74)}\r\n a`);
  });

  it('quotes what would end a parameter, and cannot begin another line', () => {
    const attendees = [{ email: 'una@a.example', name: 'Marsh, "Una"; x:y\r\nX-EVIL:1' }];
    const written = editEvent(event(start), { attendees }, { zones, now: '2026-11-23T08:00:00Z' });
    expect(written.replaceAll('\r\n ', '')).to.include(`ATTENDEE;CN="Marsh, 'Una'; x:y''X-EVIL:1";`);
    expect(renamed(event(start, 'SUMMARY;X="a;b",c,"d:e",f\tg:Old'))).to.include('SUMMARY;X="a;b",c,"d:e",f\tg:New');
    expect(renamed(event(start, 'SUMMARY;X="a\u0001\u007fb":Old'))).to.include('SUMMARY;X=ab:New');
    for (const link of ['https://a.example/\u0000', 'https://a.example/\u0085'])
      expect(() => editEvent(event(start), { link }, { zones, now: '2026-11-23T08:00:00Z' }), JSON.stringify(link)).to.throw(
        UnwritableEvent,
        'URL: a control character cannot be written into an event',
      );
  });

  it('escapes what TEXT needs (RFC 5545, 3.3.11), and is read back', () => {
    const title = 'a\\b; c, d\ne\tf';
    const written = editEvent(event(start), { title }, { zones, now: '2026-11-23T08:00:00Z' });
    expect(written).to.include('SUMMARY:a\\\\b\\; c\\, d\\ne\tf\r\n');
    expect(readEvent(written, zones).values.title).to.equal(title);
    expect(unescapeText('a\\Nb\\nc\\\\n\\x\\;\\,')).to.equal('a\nb\nc\\n\\x;,');
    expect(read('CATEGORIES:a\\,b,c,,d\\\\,e\\;f').values.categories).to.deep.equal(['a,b', 'c', 'd\\', 'e;f']);
    expect(read('CATEGORIES:a,b', 'CATEGORIES:b,c').values.categories).to.deep.equal(['a', 'b', 'c']);
  });

  it('takes the place of the first of its name, and the others go', () => {
    const edited = renamed(event('SUMMARY;A=1:One', start, 'SUMMARY;A=2:Two', 'LOCATION:Hall'));
    expect(edited).to.include(bare('UID:rehearsal', 'SUMMARY;A=1:New', start, 'LOCATION:Hall'));
    expect(edited).to.not.include('Two');
    const without = editEvent(event(start, 'LOCATION:Hall', 'X-A:1', 'LOCATION:Other'), { location: null }, { zones, now: '2026-11-23T08:00:00Z' });
    expect(without).to.include(bare(start, 'X-A:1', 'DTSTAMP'));
    expect(without).to.not.include('LOCATION');
    expect(editEvent(event(start, 'X-A:1'), { location: 'Hall' }, { zones, now: '2026-11-23T08:00:00Z' })).to.include(bare('X-A:1', 'LOCATION:Hall'));
    expect(object('BEGIN:VEVENT', 'END:VEVENT')).to.satisfy((text: string) => {
      refuses(text, 'the event has no UID');
      return true;
    });
  });
});
