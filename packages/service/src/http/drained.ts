import type { Response } from 'express';

/** Waits until the reader took what was sent, or went away. */
export const drained = (response: Response): Promise<void> =>
  new Promise((resolve) => {
    const done = () => {
      response.off('drain', done).off('close', done);
      resolve();
    };
    response.on('drain', done).on('close', done);
  });
