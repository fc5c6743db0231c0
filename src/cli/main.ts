#!/usr/bin/env node
/** `dimestall` as a process. */
import { run } from './run.js';

const exit = await run(process.argv.slice(2));
// What a command of the service itself ended with is set already.
if (exit !== 0) process.exitCode = exit;
