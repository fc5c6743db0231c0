/** picture: the icon pictures of the service, and how they travel with a folder. */
import { basename, extname, join } from 'node:path';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import type { Client } from '../../client/index.js';
import { PICTURE_NAME } from '../../contract/index.js';
import { CommandRefused, UsageProblem, clientOf, wantsJson } from '../context.js';
import { folderPictures, picturesFolder } from '../folder.js';
import { printTable } from '../output.js';
import { print, printJson } from '../print.js';

const TYPES: Readonly<Record<string, string>> = {
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.gif': 'image/gif',
  '.webp': 'image/webp',
  '.svg': 'image/svg+xml',
};

export async function pictureUpload(client: Client, file: string): Promise<string> {
  const bytes = readFileSync(file);
  const type = TYPES[extname(file).toLowerCase()] ?? 'application/octet-stream';
  const content = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  return (await client.call('PUT /pictures/{picture}', { params: { picture: basename(file) }, type, body: content }))
    .name;
}

/** Sends the folder's pictures that the service does not have yet, or has otherwise. */
export async function picturesPush(client: Client, folder: string): Promise<string[]> {
  const known = new Map((await client.call('GET /pictures')).items.map(({ name, hash }) => [name, hash]));
  const { createHash } = await import('node:crypto');
  const sent: string[] = [];
  for (const name of [...folderPictures(folder)].sort()) {
    const file = join(picturesFolder(folder), name);
    const hash = createHash('sha256').update(readFileSync(file)).digest('hex').slice(0, 32);
    if (known.get(name) !== hash) sent.push(await pictureUpload(client, file));
  }
  return sent;
}

/** Brings the service's pictures into the folder. */
export async function picturesPull(client: Client, folder: string): Promise<string[]> {
  const written: string[] = [];
  const { items } = await client.call('GET /pictures');
  // Whatever answers, nothing is written elsewhere than in the folder.
  for (const { name } of items)
    if (!PICTURE_NAME.test(name))
      throw new CommandRefused(`The service tells of a picture "${name}", which is no name that a picture can have.`);
  for (const { name } of items) {
    const bytes = Buffer.from(await client.call('GET /pictures/{picture}', { params: { picture: name } }));
    const file = join(picturesFolder(folder), name);
    if (existsSync(file) && readFileSync(file).equals(bytes)) continue;
    mkdirSync(picturesFolder(folder), { recursive: true });
    writeFileSync(file, bytes);
    written.push(file);
  }
  return written;
}

export function addPictureCommands(program: Command): void {
  const picture = program.command('picture').description('icon pictures: PNG, JPEG, WebP or GIF of at most 512 kB');
  picture
    .command('put <file>')
    .description('upload a picture; name it in an icon as pictures/FILE')
    .action(async (file: string, _options: object, command: Command) => {
      if (!existsSync(file)) throw new UsageProblem(`There is no file "${file}".`);
      const name = await pictureUpload(clientOf(command), file);
      if (wantsJson(command)) printJson({ name });
      else print(`Uploaded: write icon: pictures/${name}`);
    });
  picture
    .command('list')
    .description('the pictures that there are')
    .action(async (_options: object, command: Command) => {
      const { items } = await clientOf(command).call('GET /pictures');
      if (wantsJson(command)) printJson(items);
      else if (items.length === 0) print('There are no pictures yet.');
      else
        printTable(
          ['picture', 'type', 'saved by'],
          items.map(({ name, type, savedBy }) => [name, type, savedBy]),
        );
    });
  picture
    .command('remove <name>')
    .description('remove a picture')
    .action(async (name: string, _options: object, command: Command) => {
      await clientOf(command).call('DELETE /pictures/{picture}', { params: { picture: name } });
      if (!wantsJson(command)) print(`Removed ${name}.`);
    });
}
