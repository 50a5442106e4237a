/**
 * A value that cannot be missing here. The types do not know that; `why` tells readers what does.
 * @throws Error saying why it should have been there
 */
export function certain<T>(value: T, why: string): NonNullable<T> {
  if (value === null || value === undefined) throw new Error(`a value is missing, although ${why}`);
  return value;
}
