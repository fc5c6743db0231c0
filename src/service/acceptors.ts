/**
 * Node takes one new connection from a listening socket in each turn of its event loop: of a thousand callers that knock in
 * the same instant, the last would be heard after seconds. Each further handle on the same socket takes one more.
 */
import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { createServer } from 'node:net';
import type { Server, Socket } from 'node:net';

/** A handle on a socket, as Node has it inside of a server. */
type Handle = object;

/**
 * Node gives no second handle on a socket but to another process. This one sends back what it is sent, as often as it is
 * told to. A handle as such, and not a server, since it would hear callers itself meanwhile.
 */
const SEND_BACK = `process.on('message', (count, handle) => {
  let sent = 0;
  const next = () => (sent++ < count ? process.send(sent, handle, { keepOpen: true }, next) : process.disconnect());
  next();
})`;

/** How long is waited for it. */
const LONGEST_MS = 5000;

/**
 * Has `count` more connections taken in each turn, of up to `backlog` that may knock at once, and gives the servers that take them, for whoever closes them. None,
 * where that cannot be done: then callers wait longer.
 */
export async function acceptorsAdd(
  server: Server,
  count: number,
  backlog: number,
  onConnection: (socket: Socket) => void,
): Promise<Server[]> {
  const child = spawn(process.execPath, ['-e', SEND_BACK], { stdio: ['ignore', 'ignore', 'ignore', 'ipc'] });
  try {
    const handles = await handlesFrom(child, (server as unknown as { _handle: Handle })._handle, count);
    return handles.map((handle) => {
      const own = createServer({ allowHalfOpen: true, noDelay: true }, onConnection);
      own.listen(handle, backlog);
      return own;
    });
  } catch {
    return [];
  } finally {
    child.kill();
  }
}

function handlesFrom(child: ChildProcess, handle: Handle, count: number): Promise<Handle[]> {
  return new Promise((resolve, reject) => {
    const handles: Handle[] = [];
    const late = setTimeout(() => reject(new Error('it takes too long')), LONGEST_MS);
    late.unref();
    child.once('error', reject);
    child.once('exit', () => reject(new Error('it ended')));
    child.on('message', (_sent, back) => {
      handles.push(back as Handle);
      if (handles.length < count) return;
      clearTimeout(late);
      resolve(handles);
    });
    child.send(count, handle as never, { keepOpen: true }, (error) => {
      if (error) reject(error);
    });
  });
}
