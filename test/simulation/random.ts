/** Numbers from a seed (mulberry32): the same seed is the same history, on every machine. */
export class Random {
  #state: number;
  constructor(seed: number) {
    this.#state = (seed * 0x9e3779b1) >>> 0;
  }
  /** 0 to 1 */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let t = this.#state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }
  below = (n: number): number => Math.floor(this.next() * n);
  pick = <T>(items: readonly T[]): T => items[this.below(items.length)]!;
  chance = (p: number): boolean => this.next() < p;
}
