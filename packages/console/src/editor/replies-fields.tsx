import type { Field, FieldMap } from '@monsoon/core';
import { Choice } from '../parts/controls.tsx';
import { ofTypes } from './map-kinds.ts';
import { ReplyValues } from './reply-values.tsx';

type RepliesMap = Extract<FieldMap, { replies: string }>;
type Form = 'list' | 'count' | 'values';

/** The field that says what the guests replied, and how it says it. */
export function RepliesFields({
  map,
  fields,
  wrong,
  onChange,
}: {
  map: RepliesMap;
  fields: readonly Field[];
  wrong: boolean;
  onChange: (map: FieldMap) => void;
}) {
  const { as, values, ...rest } = map;
  const form: Form = values !== undefined ? 'values' : (as ?? 'list');
  const choices = fields.find((f) => f.name === map.replies)?.choices;
  const put = (next: Form) => onChange(next === 'values' ? { ...rest, values: { accepted: choices?.[0] ?? 'accepted' } } : { ...rest, as: next });
  return (
    <div className="grid gap-1">
      <span className="flex flex-wrap items-center gap-1.5">
        into
        <Choice
          label="Field for the replies"
          value={map.replies}
          wrong={wrong}
          empty="Choose a field"
          options={ofTypes(fields, ['text', 'long text', 'choice'])}
          onChange={(replies) => onChange({ ...map, replies })}
        />
        <Choice
          label="How the replies are written"
          value={form}
          options={[
            { value: 'list', label: 'each guest with the reply' },
            { value: 'count', label: 'how many accepted' },
            { value: 'values', label: 'a value for the reply' },
          ]}
          onChange={(next) => put(next as Form)}
        />
      </span>
      {form === 'values' && <ReplyValues choices={choices} values={values ?? {}} onChange={(next) => onChange({ ...rest, values: next })} />}
    </div>
  );
}
