/** The economy that a command with `--report` works on: the report names it. */
import type { Command } from 'commander';
import type { EconomyDocument } from '../core/document/index.js';
import { reportOf } from './report.js';
import { sourceDocument } from './source.js';
import type { SourceOptions } from './source.js';

export async function documentReported(options: SourceOptions, command: Command): Promise<EconomyDocument> {
  const { document, from } = await sourceDocument(options, command);
  reportOf({ economy: { name: document.name, zone: document.timeZone, from } });
  return document;
}
