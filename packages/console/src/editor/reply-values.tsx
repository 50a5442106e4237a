import { type Response, responses } from '@monsoon/core';
import { Choice, Words } from '../parts/controls.tsx';

type Values = Partial<Record<Response, string>>;

/** For each reply, what a field of the records calls it. */
export function ReplyValues({
  choices,
  values,
  onChange,
}: {
  choices: readonly string[] | undefined;
  values: Values;
  onChange: (values: Values) => void;
}) {
  const setValue = (reply: Response, value: string) => {
    const { [reply]: _before, ...others } = values;
    onChange(value === '' ? others : { ...others, [reply]: value });
  };
  return responses.map((reply) => (
    <span key={reply} className="flex items-center gap-1.5">
      <span className="w-28">{reply}</span>
      {choices === undefined ? (
        <Words label={`Value for ${reply}`} className="w-40" value={values[reply] ?? ''} onChange={(value) => setValue(reply, value)} />
      ) : (
        <Choice
          label={`Value for ${reply}`}
          value={values[reply] ?? ''}
          empty="it stays"
          options={choices}
          onChange={(value) => setValue(reply, value)}
        />
      )}
    </span>
  ));
}
