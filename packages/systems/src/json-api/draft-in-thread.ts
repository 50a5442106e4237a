import { draftDescriptor } from './open-api.ts';

export type Drafted = ReturnType<typeof draftDescriptor> | { refused: string };

/** What a thread does for `draftApart`: an error would lose what it is on its way. */
export function draftInThread(text: string): Drafted {
  try {
    return draftDescriptor((JSON.parse(text) as { document?: unknown } | null)?.document);
  } catch (error) {
    if (error instanceof RangeError || error instanceof SyntaxError) return { refused: error.message };
    throw error;
  }
}
