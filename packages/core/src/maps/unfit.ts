/** A value that cannot cross: the item fails with the field, the value and the limit, and the rest of the run goes on. */
export class UnfitValue extends Error {
  override name = 'UnfitValue';
  readonly field: string;
  readonly value: string;
  readonly reason: string;
  constructor(field: string, value: string, reason: string) {
    super(`${field}: ${reason}`);
    this.field = field;
    this.value = value.length > 200 ? `${value.slice(0, 200)}... (${value.length} characters)` : value;
    this.reason = reason;
  }
}
