import type { PropertyValue } from '../maps/properties.ts';
import type { FieldValue } from '../record/fields.ts';

/** One field of an operation, for forecasts and the journal: an event's property or a record's field. */
export interface Change {
  side: 'record' | 'event';
  property: string;
  before: PropertyValue | FieldValue;
  after: PropertyValue | FieldValue;
  cause: string;
  /** it was found so, and not written by us */
  seen?: true;
}
