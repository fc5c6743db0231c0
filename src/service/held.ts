interface Holder {
  drop(): void;
  refresh(): void;
}

/** What is held in memory of what is stored: read when it is first asked for, dropped when it may not be true any more. */
export class Caches {
  private readonly holders: Holder[] = [];

  /** Something that is worked out once, until it is dropped. `isTrue` says whether it stands although others have written. */
  held<T>(work: () => T, isTrue: (value: T) => boolean = () => false): Held<T> {
    const held = new Held(work);
    this.onForget(
      () => held.drop(),
      () => held.keepIf(isTrue),
    );
    return held;
  }

  /** Also runs `drop` when everything is forgotten, and `refresh` when others have written. */
  onForget(drop: () => void, refresh = drop): void {
    this.holders.push({ drop, refresh });
  }

  /** After an undone transaction nothing that is held can be trusted. */
  forget(): void {
    for (const { drop } of this.holders) drop();
  }

  /** After another connection has written: what cannot have changed is kept. */
  refresh(): void {
    for (const { refresh } of this.holders) refresh();
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
  keepIf(isTrue: (value: T) => boolean): void {
    if (this.value && !isTrue(this.value.is)) this.drop();
  }
}
