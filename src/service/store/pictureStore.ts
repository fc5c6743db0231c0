/** Icon pictures by file name: checked by what they are, not by what they say they are. */
import { createHash } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { imageSize } from 'image-size';
import { PICTURE_KB, PICTURE_NAME } from '../../contract/index.js';
import { Problem, notFound } from '../problem.js';
import type { Caches } from '../held.js';
import type { Database } from './database.js';
import { pictures } from './tables.js';

const MAX_SIDE = 2048;

export interface Picture {
  name: string;
  type: string;
  bytes: Buffer;
  hash: string;
}

/** Each kind of file that is taken, by what it is. SVG is none of them: it can hold scripts. */
const KINDS: Readonly<Record<string, { type: string; endings: readonly string[] }>> = {
  png: { type: 'image/png', endings: ['png'] },
  jpg: { type: 'image/jpeg', endings: ['jpg', 'jpeg'] },
  gif: { type: 'image/gif', endings: ['gif'] },
  webp: { type: 'image/webp', endings: ['webp'] },
};

export class PictureStore {
  private held: Set<string> | undefined;

  constructor(
    private readonly database: Database,
    caches: Caches,
    private readonly now: () => number,
  ) {
    caches.onForget(() => this.forget());
  }

  /** What is held of names may not be true any more. */
  forget(): void {
    this.held = undefined;
  }

  names(): ReadonlySet<string> {
    return (this.held ??= new Set(this.list().map(({ name }) => name)));
  }

  /** Another text whenever the names are others, for what is worked out from them. */
  get key(): string {
    return [...this.names()].join(' ');
  }

  list(): { name: string; type: string; hash: string; savedMs: number; savedBy: string }[] {
    const { name, type, hash, savedMs, savedBy } = pictures;
    return this.database.db.select({ name, type, hash, savedMs, savedBy }).from(pictures).orderBy(name).all();
  }

  get(name: string): Picture {
    const row = this.database.db.select().from(pictures).where(eq(pictures.name, name)).get();
    if (!row) throw notFound('picture', name);
    return row;
  }

  /** Inside the writer only. Refuses what is no picture, with what to do. */
  save(name: string, bytes: Buffer, who: string): { name: string; type: string; hash: string } {
    const type = pictureType(name, bytes);
    const hash = createHash('sha256').update(bytes).digest('hex').slice(0, 32);
    const row = { type, bytes, hash, savedMs: this.now(), savedBy: who, unnamedMs: null };
    this.database.db
      .insert(pictures)
      .values({ name, ...row })
      .onConflictDoUpdate({ target: pictures.name, set: row })
      .run();
    this.forget();
    return { name, type, hash };
  }

  /** Inside the writer only. */
  remove(name: string): void {
    this.get(name);
    this.database.db.delete(pictures).where(eq(pictures.name, name)).run();
    this.forget();
  }
}

function pictureType(name: string, bytes: Buffer): string {
  const refused = (detail: string): Problem => new Problem('bad-picture', detail);
  if (/\.svg$/i.test(name) || /^\s*(<\?xml|<svg)/i.test(bytes.toString('latin1', 0, 200)))
    throw refused('SVG is not taken, because it can hold scripts. Save the picture as PNG or WebP.');
  if (!PICTURE_NAME.test(name))
    throw refused(
      `"${name}" cannot be a picture's name. Use small letters, digits, _ and -, ending in .png, .jpg, .webp or .gif.`,
    );
  if (bytes.length > PICTURE_KB * 1024)
    throw refused(
      `The picture has ${Math.ceil(bytes.length / 1024)} kB and ${PICTURE_KB} kB are the most. Make it smaller: an icon needs about 128 by 128 points.`,
    );
  const { is, side } = pictureMeasured(bytes);
  const kind = KINDS[is ?? ''];
  if (!kind) throw refused('This is no PNG, JPEG, WebP or GIF. Save the picture in one of these formats.');
  if (!kind.endings.some((ending) => name.endsWith(`.${ending}`)))
    throw refused(`The file is ${kind.type}, and its name ends otherwise. Name it .${kind.endings[0]}.`);
  if (side > MAX_SIDE) throw refused(`The picture is larger than ${MAX_SIDE} by ${MAX_SIDE} points. Make it smaller.`);
  return kind.type;
}

/** What the bytes are, and their longer side in points; neither where that cannot be read. */
function pictureMeasured(bytes: Buffer): { is?: string | undefined; side: number } {
  try {
    // Bytes of their own: the package would read on past the end of a part of others.
    const { type, width, height } = imageSize(Uint8Array.from(bytes));
    return { is: type, side: Math.max(width, height) };
  } catch {
    return { side: 0 };
  }
}
