/** What is held in memory of what is stored: read when it is first asked for, dropped when a transaction is undone. */
export class Caches {
  private readonly drops: (() => void)[] = [];

  /** Something that is worked out once, until it is dropped. */
  held<T>(work: () => T): Held<T> {
    const held = new Held(work);
    this.onForget(() => held.drop());
    return held;
  }

  /** Also runs `drop` when everything is forgotten. */
  onForget(drop: () => void): void {
    this.drops.push(drop);
  }

  /** After an undone transaction nothing that is held can be trusted. */
  forget(): void {
    for (const drop of this.drops) drop();
  }
}

export class Held<T> {
  private value: { is: T } | undefined;

  constructor(private readonly work: () => T) {}

  get(): T {
    return (this.value ??= { is: this.work() }).is;
  }
  set(value: T): void {
    this.value = { is: value };
  }
  drop(): void {
    this.value = undefined;
  }
}
