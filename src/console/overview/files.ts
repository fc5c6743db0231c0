/** Economy files as somebody has them: single ones, a folder, or a zip of either. */
import { strFromU8, unzipSync } from 'fflate';

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
  let bytes = 0;
  let outside: string | undefined;
  const filter = ({ name, originalSize }: { name: string; originalSize: number }): boolean => {
    if (/^([/\\]|[a-z]:)|(^|[/\\])\.\.([/\\]|$)/i.test(name)) outside ??= name;
    if (!IS_ECONOMY.test(name) || IS_HIDDEN.test(name)) return false;
    bytes += originalSize;
    // What is too much is not unpacked to find that out.
    return outside === undefined && bytes <= MOST_BYTES;
  };
  let unpacked: Record<string, Uint8Array>;
  try {
    // Not on a thread of its own: the page's policy allows none that is made from text, and this much takes no time.
    unpacked = unzipSync(packed, { filter });
  } catch (error) {
    throw new Error(`${file.name} cannot be unpacked: ${(error as Error).message}. Zip the folder once more.`, {
      cause: error,
    });
  }
  if (outside !== undefined)
    throw new Error(`${file.name} holds "${outside}", which leads outside of it. Zip the folder itself.`);
  if (bytes > MOST_BYTES)
    throw new Error(
      `The economy files in ${file.name} come to ${megabytes(bytes)}; ${megabytes(MOST_BYTES)} are the most.`,
    );
  return Object.entries(unpacked).map(([path, data]) => ({ path, text: strFromU8(data) }));
}
