/** What waits, by holder: one of each in turn, so that whoever asks for much makes nobody wait but themselves. */
export class FairQueue<T> {
  /** The holder whose turn is next stands first. */
  private readonly byHolder = new Map<string, T[]>();
  private count = 0;

  get size(): number {
    return this.count;
  }

  sizeOf(holder: string): number {
    return this.byHolder.get(holder)?.length ?? 0;
  }

  push(holder: string, one: T): void {
    const own = this.byHolder.get(holder);
    if (own) own.push(one);
    else this.byHolder.set(holder, [one]);
    this.count++;
  }

  /** Takes the oldest of the holder whose turn it is; undefined where nothing waits. */
  shift(): T | undefined {
    for (const [holder, own] of this.byHolder) {
      const one = own.shift()!;
      this.byHolder.delete(holder);
      if (own.length > 0) this.byHolder.set(holder, own);
      this.count--;
      return one;
    }
    return undefined;
  }

  /** Takes out one that waits, out of turn; its holder's turn is over. */
  take(one: T): void {
    for (const [holder, own] of this.byHolder) {
      const at = own.indexOf(one);
      if (at < 0) continue;
      own.splice(at, 1);
      this.byHolder.delete(holder);
      if (own.length > 0) this.byHolder.set(holder, own);
      this.count--;
      return;
    }
  }

  /** Takes out everything, in the order in which it would have been taken. */
  clear(): T[] {
    const all = this.inOrder();
    this.byHolder.clear();
    this.count = 0;
    return all;
  }

  /** All that waits, the next first. */
  inOrder(): T[] {
    const rows = [...this.byHolder.values()];
    const all: T[] = [];
    for (let round = 0; all.length < this.count; round++)
      for (const own of rows) if (round < own.length) all.push(own[round]!);
    return all;
  }
}
