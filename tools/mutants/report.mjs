import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { relative } from 'node:path';
import { parse } from 'yaml';

/** What counts as noticed. A mutant that does not compile or run at all says nothing, and is left out. */
const noticed = new Set(['Killed', 'Timeout']);
const ignored = new Set(['CompileError', 'RuntimeError', 'Ignored', 'Pending']);

const WANTED = 85;

/** The source text between two places; lines and columns count from 1. */
function textAt(lines, { start, end }) {
  if (start.line === end.line) return lines[start.line - 1].slice(start.column - 1, end.column - 1);
  return [lines[start.line - 1].slice(start.column - 1), ...lines.slice(start.line, end.line - 1), lines[end.line - 1].slice(0, end.column - 1)].join(
    '\n',
  );
}

/** One line of text however long the code is. */
const short = (text) => text.replaceAll(/\s+/g, ' ').trim().slice(0, 160);

/**
 * Prints the score of each file and writes the survivors, one by one, beside the report.
 * An explanation names a survivor by its file, the code and what replaces it: lines move.
 * @returns whether the score suffices and no explanation is out of date
 */
export function report(json, explanations, root) {
  const { files } = JSON.parse(readFileSync(json, 'utf8'));
  const explained = existsSync(explanations) ? (parse(readFileSync(explanations, 'utf8')) ?? []) : [];
  const used = new Set();
  const total = { killed: 0, survived: 0, explained: 0 };
  const list = [];
  for (const [path, { source, mutants }] of Object.entries(files).sort()) {
    const file = path.slice(path.indexOf('packages/'));
    const lines = source.split('\n');
    const own = { killed: 0, survived: 0, explained: 0 };
    for (const mutant of mutants) {
      if (ignored.has(mutant.status)) continue;
      if (noticed.has(mutant.status)) {
        own.killed++;
        continue;
      }
      const was = short(textAt(lines, mutant.location));
      const becomes = short(mutant.replacement ?? '');
      const line = short(lines[mutant.location.start.line - 1]);
      const why = explained.find((e) => e.file === file && e.line === line && e.was === was && e.becomes === becomes);
      if (why !== undefined) {
        used.add(why);
        own.explained++;
        continue;
      }
      own.survived++;
      list.push({ file, at: mutant.location.start.line, mutator: mutant.mutatorName, reached: mutant.status !== 'NoCoverage', line, was, becomes });
    }
    for (const key of Object.keys(total)) total[key] += own[key];
    const all = own.killed + own.survived;
    const score = all === 0 ? '     -' : `${((100 * own.killed) / all).toFixed(1).padStart(5)}%`;
    console.log(`${score}  ${String(own.killed).padStart(5)} of ${String(all).padStart(5)}  ${own.explained} explained  ${file}`);
  }
  const score = (100 * total.killed) / (total.killed + total.survived);
  const target = json.replace(/mutants\.json$/, 'survivors.txt');
  writeFileSync(
    target,
    list
      .map(
        (s) =>
          `${s.file}:${s.at} ${s.mutator}${s.reached ? '' : ' (no test reaches it)'}\n  line:    ${s.line}\n  was:     ${s.was}\n  becomes: ${s.becomes}\n`,
      )
      .join('\n'),
  );
  const mutated = new Set(Object.keys(files).map((path) => path.slice(path.indexOf('packages/'))));
  const stale = explained.filter((e) => mutated.has(e.file) && !used.has(e));
  for (const e of stale) console.log(`explained, and does not survive: ${e.file}: ${e.was} -> ${e.becomes}`);
  console.log(`\n${score.toFixed(1)} % of ${total.killed + total.survived} mutants are noticed (wanted: ${WANTED} %), ${total.explained} explained.`);
  console.log(`Survivors: ${relative(root, target)}`);
  return score >= WANTED && stale.length === 0;
}
