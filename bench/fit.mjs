// Fitting personas to the demo's log of some 119,000 lines, beside only reading it.
import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { fitPersonas } from '../dist/core/fit/index.js';
import { logRead } from '../dist/core/log/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { document } = loadDemo();
const text = gunzipSync(readFileSync('demo/log/saltwind-cove.ndjson.gz')).toString();
const lines = text.trimEnd().split('\n');

await compare(
  `Fitting ${lines.length.toLocaleString('en')} lines (a guide: a few seconds)`,
  'lines/s',
  {
    'read and fitted': async () =>
      lines.length / (await secondsOf(() => fitPersonas({ document, log: logRead(text, document) }))),
    read: async () => lines.length / (await secondsOf(() => logRead(text, document))),
    'parsed as JSON': async () => lines.length / (await secondsOf(() => lines.map((line) => JSON.parse(line)))),
  },
  3,
);
