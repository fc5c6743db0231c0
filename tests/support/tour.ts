/** Follows what a document tells its readers to type, and gives what they would see. */
import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { packageRoot } from '../../src/service/index.js';
import { CLI } from './cli.js';
import { scratchFolder } from './stall.js';

export interface TourStep {
  command: string;
  output: string;
}

/** The commands of a text's console blocks with the output that it promises, here-documents included. */
export function tourSteps(text: string): TourStep[] {
  const blocks = [...text.matchAll(/```console\n([\s\S]*?)```/g)].map(([, block]) => block!);
  return blocks.flatMap((block) =>
    block
      .split(/^\$ /m)
      .slice(1)
      .map((step) => {
        const lines = step.split('\n');
        const end = lines[0]!.includes("<<'END'") ? lines.indexOf('END') + 1 : 1;
        return { command: lines.slice(0, end).join('\n'), output: lines.slice(end).join('\n').trim() };
      }),
  );
}

/** Instants differ from day to day, and a busy machine is told that it will take a while; everything else must be as promised. */
export const timeless = (text: string): string =>
  text
    .replace(/^.*: about .* to go\. Ctrl\+C ends it\.\n/gm, '')
    .replace(/\d{4}-\d\d-\d\d \d\d:\d\d WES?T/g, 'NOW')
    .replace(/ds_[\w.-]+/g, 'TOKEN')
    .replace(/:\d{4,5}\//g, ':PORT/')
    .trim();

/** A running demo in a folder of its own, as a reader would have it. */
export class Tour {
  readonly folder = scratchFolder();
  private readonly demo: ChildProcess;
  /** What the demo says when it has started. */
  readonly greeting: Promise<string>;

  constructor() {
    for (const name of ['script', 'demo', 'docs']) symlinkSync(join(packageRoot(), name), join(this.folder.path, name));
    this.demo = spawn(process.execPath, [CLI, 'demo', '--port', '0'], {
      cwd: this.folder.path,
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    this.greeting = new Promise((resolve) => {
      let text = '';
      this.demo.stdout!.on('data', (chunk: Buffer) => {
        text += chunk.toString();
        if (text.includes('--fresh')) resolve(text);
      });
    });
  }

  /** The link that signs in. */
  async link(): Promise<string> {
    return /http\S+#token=\S+/.exec(await this.greeting)![0];
  }

  /** What a command prints, both streams together. */
  async run(command: string): Promise<string> {
    const child = spawn('bash', ['-c', `export PATH="$PWD/script:$PATH"\n${command}`], {
      cwd: this.folder.path,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    let text = '';
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (chunk: Buffer) => {
        text += chunk.toString();
      });
    await once(child, 'close');
    return text;
  }

  async stop(): Promise<void> {
    // One that is stopped while it starts would leave its service behind.
    await this.greeting;
    const exited = once(this.demo, 'exit');
    this.demo.kill('SIGTERM');
    await exited;
    this.folder.remove();
  }
}
