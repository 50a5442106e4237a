import { type Field, type FieldMap, responses } from '@monsoon/core';
import { Choice, Words } from '../parts/controls.tsx';
import { ofTypes } from './map-kinds.ts';

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
  const setValue = (reply: string, value: string) => {
    const { [reply as 'accepted']: _before, ...others } = values ?? {};
    onChange({ ...rest, values: value === '' ? others : { ...others, [reply]: value } });
  };
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
      {form === 'values' &&
        responses.map((reply) => (
          <span key={reply} className="flex items-center gap-1.5">
            <span className="w-28">{reply}</span>
            {choices === undefined ? (
              <Words label={`Value for ${reply}`} className="w-40" value={values?.[reply] ?? ''} onChange={(value) => setValue(reply, value)} />
            ) : (
              <Choice
                label={`Value for ${reply}`}
                value={values?.[reply] ?? ''}
                empty="it stays"
                options={choices}
                onChange={(value) => setValue(reply, value)}
              />
            )}
          </span>
        ))}
    </div>
  );
}
