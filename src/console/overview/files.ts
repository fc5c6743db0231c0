/** Economy files as somebody has them: single ones, a folder, or a zip of either. */
import { Unzip, UnzipInflate, strFromU8, unzipSync } from 'fflate';

export interface EconomyFile {
  path: string;
  text: string;
}

const MOST_FILES = 500;
const MOST_ZIP_BYTES = 20_000_000;
/** As much as an economy may have. */
const MOST_BYTES = 12_000_000;
const IS_ECONOMY = /\.(ya?ml|json)$/i;
const IS_ZIP = /\.zip$/i;
/** What a system puts beside the files, for itself. */
const IS_HIDDEN = /(^|\/)(\.|__MACOSX\/)/;

const megabytes = (bytes: number): string => `${Math.ceil(bytes / 1_000_000)} MB`;

/** The economy files among those chosen; fails with a sentence where they cannot be read. */
export async function economyFilesOf(chosen: readonly File[]): Promise<EconomyFile[]> {
  const files: EconomyFile[] = [];
  for (const file of chosen) {
    if (IS_ZIP.test(file.name)) files.push(...(await unzipped(file)));
    else if (IS_ECONOMY.test(file.name) && !IS_HIDDEN.test(file.webkitRelativePath))
      files.push({ path: file.webkitRelativePath || file.name, text: await file.text() });
  }
  if (files.length === 0)
    throw new Error('None of these is a YAML or JSON file: choose the folder that the economy stands in, or its zip.');
  if (files.length > MOST_FILES)
    throw new Error(
      `There are ${files.length} files; ${MOST_FILES} are the most. Choose the folder of one economy alone.`,
    );
  return files;
}

async function unzipped(file: File): Promise<EconomyFile[]> {
  if (file.size > MOST_ZIP_BYTES)
    throw new Error(
      `${file.name} has ${megabytes(file.size)}; ${megabytes(MOST_ZIP_BYTES)} are the most. Zip the economy's YAML and JSON files alone.`,
    );
  const packed = new Uint8Array(await file.arrayBuffer());
  const said = entriesSaid(packed, file.name);
  const outside = said.find(({ name }) => /^([/\\]|[a-z]:)|(^|[/\\])\.\.([/\\]|$)/i.test(name));
  if (outside)
    throw new Error(`${file.name} holds "${outside.name}", which leads outside of it. Zip the folder itself.`);
  const wanted = said.filter(({ name }) => IS_ECONOMY.test(name) && !IS_HIDDEN.test(name));
  const bytes = wanted.reduce((sum, { size }) => sum + size, 0);
  // What is too much is not unpacked to find that out.
  if (bytes > MOST_BYTES)
    throw new Error(
      `The economy files in ${file.name} come to ${megabytes(bytes)}; ${megabytes(MOST_BYTES)} are the most.`,
    );
  const unpacked = entriesOf(packed, new Set(wanted.map(({ name }) => name)), bytes);
  const other = wanted.find(({ name, size }) => unpacked?.get(name)?.length !== size);
  if (!unpacked || other)
    throw new Error(
      `${file.name} is not what it says it is${other ? `: "${other.name}" does not have the ${other.size} bytes that its list says` : ''}. Zip the folder once more.`,
    );
  return [...unpacked].map(([path, data]) => ({ path, text: strFromU8(data) }));
}

/** What the list at the end of a zip says is in it. Nothing is unpacked. */
function entriesSaid(packed: Uint8Array, zip: string): { name: string; size: number }[] {
  const said: { name: string; size: number }[] = [];
  try {
    unzipSync(packed, {
      filter: ({ name, originalSize }) => {
        said.push({ name, size: originalSize });
        return false;
      },
    });
  } catch (error) {
    throw new Error(`${zip} cannot be unpacked: ${(error as Error).message}. Zip the folder once more.`, {
      cause: error,
    });
  }
  return said;
}

/** So much is unpacked between two looks at what it has come to; a thousand times as much may come out of it. */
const SLICE_BYTES = 4096;

/** What `wanted` unpacks to; undefined where that is more than `most` bytes, which a list may not say, or cannot be read. */
function entriesOf(packed: Uint8Array, wanted: ReadonlySet<string>, most: number): Map<string, Uint8Array> | undefined {
  const chunks = new Map<string, Uint8Array[]>();
  let bytes = 0;
  let isBroken = false;
  // Not on a thread of its own: the page's policy allows none that is made from text, and this much takes no time.
  const unzip = new Unzip((entry) => {
    if (!wanted.has(entry.name)) return;
    const own: Uint8Array[] = [];
    chunks.set(entry.name, own);
    entry.ondata = (error, chunk) => {
      if (error) isBroken = true;
      else {
        own.push(chunk);
        bytes += chunk.length;
      }
    };
    entry.start();
  });
  unzip.register(UnzipInflate);
  try {
    for (let at = 0; at < packed.length && bytes <= most && !isBroken; at += SLICE_BYTES)
      unzip.push(packed.subarray(at, at + SLICE_BYTES), at + SLICE_BYTES >= packed.length);
  } catch {
    return undefined;
  }
  if (bytes > most || isBroken) return undefined;
  return new Map([...chunks].map(([name, own]) => [name, joined(own)]));
}

function joined(chunks: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(chunks.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const chunk of chunks) {
    whole.set(chunk, at);
    at += chunk.length;
  }
  return whole;
}
