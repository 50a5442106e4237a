import type { SettingShape } from '@monsoon/contract';
import { parse, stringify } from 'yaml';

/** What was written into a form, by the name of its setting. */
export type Written = Record<string, string>;

const look = 'w-full rounded border border-line bg-paper px-2 py-1';

/** The settings of a kind of system as a form: the label, the hint, and the field that fits. */
export function SettingFields({
  of,
  shapes,
  written,
  wrong,
  secret = false,
  kept = [],
  onChange,
}: {
  of: string;
  shapes: SettingShape[];
  written: Written;
  /** what is wrong, by name */
  wrong: Record<string, string>;
  secret?: boolean;
  /** secrets that are kept already, and stay when nothing is written */
  kept?: string[];
  onChange: (name: string, value: string) => void;
}) {
  return shapes.map((s) => {
    const id = `${of}-${s.name}`;
    const described = [s.hint === null ? null : `${id}-hint`, wrong[s.name] === undefined ? null : `${id}-wrong`].filter((x) => x !== null).join(' ');
    const value = written[s.name] ?? '';
    const common = {
      id,
      value,
      'aria-describedby': described === '' ? undefined : described,
      'aria-invalid': wrong[s.name] !== undefined,
      required: s.required && !kept.includes(s.name),
    };
    const place = kept.includes(s.name) ? 'kept; write to replace it' : s.default === null ? '' : `${s.default} unless said`;
    return (
      <div key={s.name} className="grid gap-1 px-3 py-1.5 md:grid-cols-[14rem_minmax(0,1fr)]">
        <label htmlFor={id} className="pt-1 font-medium">
          {s.label}
          {common.required && <span className="text-soft"> (needed)</span>}
        </label>
        <div>
          {s.type === 'choice' ? (
            <select {...common} className={look} onChange={(e) => onChange(s.name, e.target.value)}>
              <option value="">{s.default === null ? '' : `${s.default} unless said`}</option>
              {s.choices.map((c) => (
                <option key={c}>{c}</option>
              ))}
            </select>
          ) : s.type === 'yaml' || s.lines > 1 ? (
            <textarea
              {...common}
              rows={s.lines}
              spellCheck={false}
              className={`${look} font-mono text-[0.87rem]`}
              onChange={(e) => onChange(s.name, e.target.value)}
            />
          ) : (
            <input
              {...common}
              type={secret ? 'password' : 'text'}
              autoComplete="off"
              spellCheck={false}
              inputMode={s.type === 'number' ? 'numeric' : undefined}
              placeholder={place}
              className={look}
              onChange={(e) => onChange(s.name, e.target.value)}
            />
          )}
          {s.hint !== null && (
            <p id={`${id}-hint`} className="text-[0.9rem] text-soft">
              {s.hint}
            </p>
          )}
          {wrong[s.name] !== undefined && (
            <p id={`${id}-wrong`} className="text-failed">
              {wrong[s.name]}
            </p>
          )}
        </div>
      </div>
    );
  });
}

/** What was written, as the settings that it says. Empty means: not given. @throws Error naming the setting whose YAML cannot be read */
export function read(shapes: SettingShape[], written: Written): Record<string, unknown> {
  const settings: Record<string, unknown> = {};
  for (const s of shapes) {
    const text = written[s.name]?.trim() ?? '';
    if (text === '') continue;
    if (s.type === 'number') settings[s.name] = Number(text);
    else if (s.type === 'yes/no') settings[s.name] = text === 'yes';
    else if (s.type === 'yaml') {
      try {
        settings[s.name] = parse(text);
      } catch (error) {
        throw new Unreadable(s.name, `this is no YAML that can be read: ${(error as Error).message.split('\n')[0]}`);
      }
    } else settings[s.name] = text;
  }
  return settings;
}

export class Unreadable extends Error {
  readonly setting: string;
  constructor(setting: string, message: string) {
    super(message);
    this.setting = setting;
  }
}

/** Settings as they would be written. */
export const write = (shapes: SettingShape[], settings: Record<string, unknown>): Written =>
  Object.fromEntries(
    shapes.flatMap((s): [string, string][] => {
      const value = settings[s.name];
      if (value === undefined || value === null || value === s.default) return [];
      return [[s.name, s.type === 'yaml' ? stringify(value).trimEnd() : String(value)]];
    }),
  );
