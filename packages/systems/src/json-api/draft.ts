import { besides, inThread, TooMuchWork } from '../threads.ts';
import type { Drafted } from './draft-in-thread.ts';
import type { draftDescriptor } from './open-api.ts';

/** Seconds for one document, with the start of a thread. */
const LONGEST = 5;

/**
 * A first descriptor from an OpenAPI 3 document, read and drafted in a thread beside: schemas refer to each other in any way.
 * @param text JSON of an object that has the document as `document` @throws RangeError
 */
export async function draftApart(text: string): Promise<ReturnType<typeof draftDescriptor>> {
  const drafted = await inThread<Drafted>(besides(import.meta.url, 'draft-in-thread'), 'draftInThread', text, LONGEST).catch((error: unknown) => {
    throw error instanceof TooMuchWork ? new RangeError(`the document cannot be read: ${error.message}`) : error;
  });
  if ('refused' in drafted) throw new RangeError(drafted.refused);
  return drafted;
}
