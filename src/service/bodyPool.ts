/** How much memory the bodies of requests may take that are being read or worked at, together. */
import { memoryLimit } from '../runs/memory.js';
import { Problem } from './problem.js';

/** An eighth of what there is, where that is less. */
const MOST_KB = Math.min(128 * 1024, Math.floor(memoryLimit() / 8 / 1024));
/** What one holder may take of it: nobody takes it all. */
const SHARE = 0.5;

export class BodyPool {
  private used = 0;
  private readonly byHolder = new Map<string, number>();

  constructor(private readonly mostKb = MOST_KB) {}

  /** Sets aside as much as a body may have, in kB, before it is read. Throws where there is no room. Gives the way to return it, once. */
  take(holder: string, kb: number): () => void {
    const own = this.byHolder.get(holder) ?? 0;
    if (this.used + kb > this.mostKb || own + kb > this.mostKb * SHARE)
      throw new Problem('too-many', 'Too much is being sent at once. Try again in a moment.', {}, 1);
    this.add(holder, kb);
    return () => this.add(holder, -kb);
  }

  private add(holder: string, kb: number): void {
    this.used += kb;
    const own = (this.byHolder.get(holder) ?? 0) + kb;
    if (own > 0) this.byHolder.set(holder, own);
    else this.byHolder.delete(holder);
  }
}
