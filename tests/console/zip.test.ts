/** Zips that somebody chooses in the console: what their list says is not believed. */
import { Zip, ZipDeflate, strToU8, zipSync } from 'fflate';
import { economyFilesOf } from '../../src/console/overview/files.js';

const zipOf = (entries: Record<string, string>): Buffer =>
  Buffer.from(zipSync(Object.fromEntries(Object.entries(entries).map(([path, text]) => [path, strToU8(text)]))));
const read = (bytes: Uint8Array, name = 'cove.zip') => economyFilesOf([new File([bytes as BlobPart], name)]);

/** Where the list of a zip says how long its first entry is. */
const saidAt = (zip: Buffer): number => zip.indexOf('PK\u0001\u0002') + 24;

test('a zip is read, as it is written and as it is written by those who do not know how long it becomes', async () => {
  const text = 'name: Cove\n'.repeat(1000);
  expect(await read(zipOf({ 'cove/a.yaml': text, 'cove/readme.txt': 'x' }))).toEqual([{ path: 'cove/a.yaml', text }]);
  const parts: Uint8Array[] = [];
  const zip = new Zip((_error, part) => parts.push(part));
  for (const path of ['a.yaml', 'b.yaml']) {
    const entry = new ZipDeflate(path);
    zip.add(entry);
    entry.push(strToU8(text), true);
  }
  zip.end();
  expect(await read(Buffer.concat(parts))).toEqual(['a.yaml', 'b.yaml'].map((path) => ({ path, text })));
});

test.each([
  ['less than there is', 10, 9],
  ['more than there is', 9_000_001, 9],
  ['less, where all of it would fill the memory', 10, 60],
])('a zip whose list says %s is not taken for what it says', async (_which, said, mb) => {
  const zip = zipOf({ 'a.yaml': 'x'.repeat(mb * 1_000_000) });
  zip.writeUInt32LE(said, saidAt(zip));
  const before = process.memoryUsage().arrayBuffers;
  await expect(read(zip)).rejects.toThrow(/cove\.zip is not what it says it is.*Zip the folder once more/);
  expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(100e6);
});

test('one that is cut off, or is none, is told', async () => {
  const zip = zipOf({ 'a.yaml': 'name: Cove\n' });
  for (const bytes of [zip.subarray(0, 20), Buffer.from('PK, or so')])
    await expect(read(bytes)).rejects.toThrow(/cove\.zip cannot be unpacked/);
  // The list is whole; what it lists is not.
  const list = zip.indexOf('PK\u0001\u0002');
  zip.fill(0xff, 40, list);
  await expect(read(zip)).rejects.toThrow(/is not what it says it is/);
});
