import { draftDescriptor } from './open-api.ts';

export type Drafted = ReturnType<typeof draftDescriptor> | { refused: string };

/** What a thread does for {@link draftApart}: an error would lose what it is on its way. */
export function draftInThread(document: unknown): Drafted {
  try {
    return draftDescriptor(document);
  } catch (error) {
    if (error instanceof RangeError) return { refused: error.message };
    throw error;
  }
}
