/** One HTTP exchange, small enough to be wrapped. Bodies are whole: chunked requests are refused by some servers. */
export interface Request {
  method: string;
  url: string;
  headers: Record<string, string>;
  body?: string | undefined;
  /** most bytes of an answer that are read; 64 MiB unless said */
  limit?: number | undefined;
  /**
   * takes the body of a 200 piece by piece instead of keeping it; it may be called again from the start when the
   * connection broke
   */
  consume?: ((body: AsyncIterable<Buffer>, headers: Record<string, string>) => Promise<void>) | undefined;
  signal?: AbortSignal | undefined;
}

export interface Answer {
  status: number;
  /** names in lower case */
  headers: Record<string, string>;
  body: Buffer;
  /** the address that answered, after redirects */
  url: string;
}

/** Rejects with OutsideError only when there is no answer; what a status means is the caller's to say. */
export type Call = (request: Request) => Promise<Answer>;
