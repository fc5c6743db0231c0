/** Two threads beside the room: one answers the hand, the other plays what may take longer. */
import type { TuneProgress } from '../../../core/balance/index.js';
import type { EconomyDocument } from '../../../core/document/index.js';
import type { Answer, Order, OrderKind, Orders } from './orders.js';

/** A newer run was asked for before this one was done, or the room was left. */
export class Superseded extends Error {}

export interface Progress {
  done: number;
  of: number;
  best?: TuneProgress['best'];
}

interface Waiting {
  done: (answer: never) => void;
  failed: (error: Error) => void;
  onProgress: ((progress: Progress) => void) | undefined;
}

/** A thread that is begun when it is asked something, and knows the document that the question is about. */
class Thread {
  private worker: Worker | undefined;
  private document: EconomyDocument | undefined;
  private readonly waiting = new Map<number, Waiting>();
  private count = 0;

  private begin(): Worker {
    const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Answer>) => this.answered(data);
    worker.onerror = ({ message }) => this.close(new Error(message));
    return worker;
  }

  private answered(answer: Answer): void {
    const asked = this.waiting.get(answer.id);
    if (answer.kind === 'progress') {
      const { done, of, best } = answer;
      asked?.onProgress?.({ done, of, ...(best ? { best } : {}) });
      return;
    }
    this.waiting.delete(answer.id);
    if (answer.kind === 'done') asked?.done(answer.answer as never);
    else asked?.failed(answer.kind === 'left' ? new Superseded() : new Error(answer.why));
  }

  private send(order: Order): void {
    (this.worker ??= this.begin()).postMessage(order);
  }

  ask<K extends OrderKind>(
    document: EconomyDocument,
    kind: K,
    asked: Orders[K]['asked'],
    onProgress?: (progress: Progress) => void,
  ): Promise<Orders[K]['answer']> {
    if (this.document !== document) this.send({ kind: 'document', document });
    this.document = document;
    const id = ++this.count;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done: done as Waiting['done'], failed, onProgress });
      this.send({ kind, id, asked } as Order);
    });
  }

  stop(): void {
    if (this.worker) this.send({ kind: 'stop' });
  }

  close(why: Error = new Superseded()): void {
    this.worker?.terminate();
    this.worker = undefined;
    this.document = undefined;
    const waiting = [...this.waiting.values()];
    this.waiting.clear();
    for (const { failed } of waiting) failed(why);
  }
}

export class Desk {
  private readonly hand = new Thread();
  private readonly side = new Thread();
  private turn: Promise<unknown> = Promise.resolve();
  private visits = 0;

  /** At once, on the thread of the hand; a newer run ends an older one, which fails with `Superseded`. */
  readonly now: Thread['ask'] = (document, kind, asked, onProgress) => this.hand.ask(document, kind, asked, onProgress);
  /** In its turn, on the other thread: each when the one before is over. */
  readonly later: Thread['ask'] = (document, kind, asked, onProgress) => {
    const visit = this.visits;
    const next = this.turn.then(() => {
      if (visit !== this.visits) throw new Superseded();
      return this.side.ask(document, kind, asked, onProgress);
    });
    this.turn = next.catch(() => undefined);
    return next;
  };

  /** Ends a search with the best so far. */
  stop(): void {
    this.side.stop();
  }

  /**
   * What is not answered yet fails, so that whoever asks for it anew is not given a promise that nobody keeps; what is
   * asked afterwards begins anew.
   */
  close(): void {
    this.visits++;
    this.hand.close();
    this.side.close();
    this.turn = Promise.resolve();
  }
}
