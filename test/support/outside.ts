import { OutsideError } from '@monsoon/systems';
import { expect } from 'chai';
import type { Answerer } from './misbehaving.ts';

/** The trouble that some work with a system ends in. */
export const trouble = (work: Promise<unknown>): Promise<OutsideError> =>
  work.then(
    () => expect.fail('it went well'),
    (error: unknown) => {
      expect(error).to.be.instanceOf(OutsideError);
      return error as OutsideError;
    },
  );

/** Answers everything alike. */
export const reply =
  (status: number, body = '', headers = {}): Answerer =>
  (_asked, response) => {
    response.writeHead(status, headers).end(body);
    return true;
  };
