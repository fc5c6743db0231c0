/** What happens, told to whoever listens, as CloudEvents 1.0: after it is on disk, never before. */
import type { StreamEvent, StreamType } from '../contract/index.js';
import type { Faults } from './faults.js';

type Listener = (event: StreamEvent) => void;

/** Events that a listener may ask for again after a broken connection. */
const MOST_KEPT = 200;

export class Stream {
  private readonly listeners = new Set<Listener>();
  private readonly kept: StreamEvent[] = [];
  private waiting: Omit<StreamEvent, 'id'>[] = [];
  private serial = 0;

  /** `start` sets the ids of one start of the service apart from those of another. */
  constructor(
    private readonly start: string,
    private readonly faults: Faults,
    private readonly now: () => number,
  ) {}

  /** Notes what is being done; it is told once the transaction is committed. */
  tell(type: StreamType, subject: string, data: Record<string, unknown>): void {
    this.waiting.push(this.made(type, subject, data));
  }

  committed(): void {
    const due = this.waiting;
    this.waiting = [];
    for (const one of due) {
      this.serial++;
      const event = { ...one, id: this.lastId };
      this.kept.push(event);
      if (this.kept.length > MOST_KEPT) this.kept.shift();
      for (const listener of this.listeners) this.faults.guard('a listener of events', () => listener(event));
    }
  }

  undone(): void {
    this.waiting = [];
  }

  /**
   * Calls `listener` with every event from now on, and before with those after `lastId`; where those are not kept any more,
   * or it was of an earlier start, with one that says so. Gives the way to stop.
   */
  listen(listener: Listener, lastId?: string): () => void {
    if (lastId !== undefined) {
      const last = this.kept.findIndex(({ id }) => id === lastId);
      if (last >= 0) this.kept.slice(last + 1).forEach(listener);
      else if (lastId !== this.lastId) listener({ ...this.made('missed', lastId, { after: lastId }), id: this.lastId });
    }
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Of the event that came last, or of the start. */
  private get lastId(): string {
    return `${this.start}-${this.serial}`;
  }

  private made(type: StreamType, subject: string, data: Record<string, unknown>): Omit<StreamEvent, 'id'> {
    return {
      specversion: '1.0',
      source: '/dimestall',
      type: `dimestall.${type}`,
      subject,
      time: new Date(this.now()).toISOString(),
      datacontenttype: 'application/json',
      data,
    };
  }
}
