// Storefront reads per second, against a bare Express 5 route that answers the same object with res.json, and against
// a bare node:http server with prepared bytes. Every server is a process of its own; the load comes from this one.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compare, secondsOf } from './support.mjs';

const CONNECTIONS = 16;
const REQUESTS = 6000;
const folder = mkdtempSync(join(tmpdir(), 'dimestall-bench-'));
const children = [];

function serve(args, ready) {
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
  children.push(child);
  return new Promise((resolve) => {
    let text = '';
    child.stdout.on('data', (chunk) => {
      text += chunk;
      const found = ready.exec(text);
      if (found) resolve(found[1]);
    });
  });
}

const way = await serve(
  [new URL('../dist/cli/main.js', import.meta.url).pathname, 'demo', '--port', '0', '--data', folder],
  /(http\S+#token=\S+)/,
);
const [url, token] = way.split('/#token=');
const headers = { Authorization: `Bearer ${token}` };
// The stall has sales and limits, the wagon a rotation, stock and limits.
const PATHS = ['pier_stall', 'lantern_wagon'].map((shop) => `/api/v1/shops/${shop}/front?player=mateo`);
const bodies = [];
for (const path of PATHS) bodies.push(await (await fetch(`${url}${path}`, { headers })).text());

const bare = join(folder, 'bare.mjs');
writeFileSync(
  bare,
  `
import { createServer } from 'node:http';
import express from '${new URL('../node_modules/express/index.js', import.meta.url)}';
const objects = [${bodies.join(', ')}];
const app = express();
app.get('/front/:number', (request, response) => { response.json(objects[Number(request.params.number)]); });
const prepared = objects.map((object) => Buffer.from(JSON.stringify(object)));
const first = app.listen(0, '127.0.0.1', () => {
  const second = createServer((request, response) => { const bytes = prepared[Number(request.url.slice(7))]; response.writeHead(200, { 'Content-Type': 'application/json', 'Content-Length': bytes.length }).end(bytes); }).listen(0, '127.0.0.1', () => console.log(\`ports \${first.address().port} \${second.address().port} \`));
});
`,
);
const ports = await serve([bare], /ports (\d+ \d+) /);
const [expressPort, httpPort] = ports.split(' ').map(Number);

/** REQUESTS requests over keep-alive connections, each sent when the answer before it is complete. */
function load(port, target, extra = '') {
  const request = `GET ${target} HTTP/1.1\r\nHost: 127.0.0.1\r\n${extra}\r\n`;
  let left = REQUESTS;
  const worker = () =>
    new Promise((resolve, reject) => {
      const socket = connect(port, '127.0.0.1');
      let pending = Buffer.alloc(0);
      const next = () => {
        if (left-- > 0) socket.write(request);
        else {
          socket.end();
          resolve();
        }
      };
      socket.on('connect', next).on('error', reject);
      socket.on('data', (chunk) => {
        pending = pending.length === 0 ? chunk : Buffer.concat([pending, chunk]);
        const head = pending.indexOf('\r\n\r\n');
        if (head < 0) return;
        const length = Number(/content-length: (\d+)/i.exec(pending.toString('latin1', 0, head))[1]);
        if (pending.length < head + 4 + length) return;
        if (!pending.toString('latin1', 0, 15).includes(' 200')) reject(new Error(pending.toString('latin1', 0, 100)));
        pending = Buffer.alloc(0);
        next();
      });
    });
  return secondsOf(() => Promise.all(Array.from({ length: CONNECTIONS }, worker))).then(
    (seconds) => REQUESTS / seconds,
  );
}

for (const [number, path] of PATHS.entries())
  await compare(
    `Storefront reads of ${path.split('/')[4]}, ${bodies[number].length} bytes, ${CONNECTIONS} connections (goal: at least 1 against the bare Express route)`,
    'reads/s',
    {
      'the storefront': () => load(Number(new URL(url).port), path, `Authorization: Bearer ${token}\r\n`),
      'a bare Express 5 route, res.json': () => load(expressPort, `/front/${number}`),
      'bare node:http, prepared bytes': () => load(httpPort, `/front/${number}`),
    },
  );
for (const child of children) {
  const ended = new Promise((resolve) => child.on('exit', resolve));
  child.kill('SIGTERM');
  await ended;
}
rmSync(folder, { recursive: true });
