/** Times that were seen. They mostly come in order: looking one up is needed once one does not. */
export class SeenTimes {
  readonly #keys: number[] = [];
  #set: Set<number> | null = null;
  #highest = Number.NEGATIVE_INFINITY;

  /** @returns whether it is new */
  add(key: number): boolean {
    if (key > this.#highest) this.#highest = key;
    else {
      this.#set ??= new Set(this.#keys);
      if (this.#set.has(key)) return false;
    }
    this.#set?.add(key);
    if (this.#set === null) this.#keys.push(key);
    return true;
  }
}
