/** The service as a process of its own, on a database file: for what happens to it from outside. */
import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Client } from '../../src/client/index.js';
import { packageRoot } from '../../src/service/index.js';
import { demoDocument } from './economy.js';
import { scratchFolder } from './stall.js';

/** Not through the command line, which would be the process that is measured. */
const SERVICE = join(packageRoot(), 'dist/service/main.js');

/** Of a clock tick in /proc, which is what Linux counts processor time in. */
const TICK_MS = 10;

export class Served {
  readonly folder = scratchFolder();
  readonly data = join(this.folder.path, 'stall.sqlite');
  url = '';
  token = '';
  /** All that it wrote to its standard error. */
  told = '';
  /** All that it wrote to its standard output: the log, where it is not silent. */
  logged = '';
  private child: ChildProcess | undefined;
  /** How many files and connections it may have open at once, where that is not what everybody may. */
  openFiles: number | undefined;
  /** Of the process, beside what it has anyway. */
  environment: Record<string, string> = {};

  async start(...options: string[]): Promise<void> {
    const access = join(this.folder.path, 'client.json');
    const command = [process.execPath, SERVICE];
    if (this.openFiles !== undefined) command.unshift('prlimit', `--nofile=${this.openFiles}`);
    const child = spawn(
      command[0]!,
      [
        ...command.slice(1),
        'serve',
        '--data',
        this.data,
        '--port',
        '0',
        '--token-file',
        access,
        '--log',
        'silent',
        ...options,
      ],
      { stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, ...this.environment } },
    );
    this.child = child;
    child.stderr.on('data', (chunk: Buffer) => (this.told += chunk.toString()));
    await new Promise<void>((resolve, reject) => {
      child.stdout.on('data', (chunk: Buffer) => {
        this.logged += chunk.toString();
        if (chunk.toString().includes('listens on')) resolve();
      });
      child.once('exit', (code) => reject(new Error(`it ended with ${code}: ${this.told}`)));
    });
    ({ url: this.url, token: this.token } = JSON.parse(readFileSync(access, 'utf8')) as { url: string; token: string });
  }

  /** With the demo economy live and a player. */
  static async demo(...options: string[]): Promise<Served> {
    const served = new Served();
    await served.start(...options);
    await served.client.call('PUT /draft', { body: demoDocument(), revision: 0 });
    await served.client.call('POST /releases', { body: { note: 'first' } });
    await served.client.call('POST /players', { body: { id: 'mateo' } });
    return served;
  }

  get client(): Client {
    return new Client({ url: this.url, token: this.token });
  }

  get pid(): number {
    return this.child!.pid!;
  }

  get runs(): boolean {
    return this.child !== undefined && this.child.exitCode === null && this.child.signalCode === null;
  }

  /** Processor time that its main thread has used: what nobody else could be answered in, however busy the machine is. */
  mainThreadMs(): number {
    const fields = readFileSync(`/proc/${this.pid}/task/${this.pid}/stat`, 'utf8').split(') ')[1]!.split(' ');
    return (Number(fields[11]) + Number(fields[12])) * TICK_MS;
  }

  memoryMb(): number {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${this.pid}/status`, 'utf8'))![1]) / 1024;
  }

  async stop(signal: NodeJS.Signals = 'SIGTERM'): Promise<void> {
    if (!this.runs) return;
    const exited = once(this.child!, 'exit');
    this.child!.kill(signal);
    await exited;
  }

  async end(): Promise<void> {
    await this.stop();
    this.folder.remove();
  }
}
