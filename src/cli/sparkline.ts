/** Numbers as a line of blocks. */

const BLOCKS = [...'▁▂▃▄▅▆▇█'];
const WIDTH = 24;

/** From 0 to the largest, each block the mean of what falls to it; at most so many blocks as fit beside a table. */
export function sparkline(values: readonly number[], width = WIDTH): string {
  const count = Math.min(width, values.length);
  const means = Array.from({ length: count }, (_, place) => {
    const part = values.slice(
      Math.floor((place * values.length) / count),
      Math.floor(((place + 1) * values.length) / count),
    );
    return part.reduce((sum, one) => sum + one, 0) / part.length;
  });
  const most = Math.max(...means, 0);
  return means
    .map((mean) => BLOCKS[most === 0 ? 0 : Math.round((Math.max(0, mean) / most) * (BLOCKS.length - 1))])
    .join('');
}
