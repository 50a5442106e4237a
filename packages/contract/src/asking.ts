import { createParser } from 'eventsource-parser';
import type { ProblemDetails } from './lanes.ts';

/** How calls are asked and their answers read. */

/** The service said no, or did not answer. The message is for people. */
export class ServiceProblem extends Error {
  override name = 'ServiceProblem';
  readonly status: number;
  readonly problems: { pointer: string; reason: string }[];

  constructor(status: number, message: string, problems: { pointer: string; reason: string }[] = []) {
    super(message);
    this.status = status;
    this.problems = problems;
  }
}

/** A query without what is not said. */
type Given<T> = { [K in keyof T as undefined extends T[K] ? never : K]: T[K] } & {
  [K in keyof T as undefined extends T[K] ? K : never]?: Exclude<T[K], undefined>;
};
export const given = <T extends object>(query: T): Given<T> =>
  Object.fromEntries(Object.entries(query).filter(([, value]) => value !== undefined)) as Given<T>;

interface Asked<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** What the service answered: what the document says of it must fit the shape. @throws ServiceProblem */
export async function got<T>(asked: Promise<Asked<T>>): Promise<T> {
  const { data, error, response } = await asked;
  if (!response.ok) throw problemOf(response.status, error);
  return data as T;
}

/** What a person wrote, sent as it is: the service checks it. */
export const unchecked = (given: unknown): never => given as never;

/** The same, where the document says less than the shape: of lanes, changes and settings it only says that they are objects. */
export const gotAs = <T>(asked: Promise<Asked<unknown>>): Promise<T> => got(asked as Promise<Asked<T>>);

export function problemOf(status: number, said: unknown): ServiceProblem {
  const problem = (typeof said === 'object' && said !== null ? said : {}) as Partial<ProblemDetails>;
  return new ServiceProblem(status, problem.detail ?? `the service answered ${status}`, problem.problems);
}

/** The server-sent events of an answer, as they come. */
export async function* events(answer: Response): AsyncGenerator<{ event: string | undefined; data: string }> {
  const arrived: { event: string | undefined; data: string }[] = [];
  const parser = createParser({ onEvent: ({ event, data }) => arrived.push({ event, data }) });
  const decoder = new TextDecoder();
  for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) {
    parser.feed(decoder.decode(piece, { stream: true }));
    while (arrived.length > 0) yield arrived.shift()!;
  }
}

type Query = Record<string, string | number | boolean | undefined>;

export function search(query: Query): string {
  const given = Object.entries(query).filter((e): e is [string, string | number] => e[1] !== undefined);
  return given.length === 0 ? '' : `?${new URLSearchParams(Object.fromEntries(given.map(([k, v]) => [k, String(v)])))}`;
}
