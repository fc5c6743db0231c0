import { memoryLimit } from '../../runs/memory.js';

/** The heap that the work of a thread beside the players' may fill, in MB: a quarter of what there is, where that is less. */
export const MOST_HEAP_MB = Math.min(1024, Math.floor(memoryLimit() / 4 / 2 ** 20));
