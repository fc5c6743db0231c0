/** Ways of playing ranked by what they pay, as data and short texts: the command line and the console show the same. */
import type { Pay, PlayWay } from './pay.js';
import { choicesText } from './report.js';

export interface WayRow {
  activity: string;
  /** What is chosen, or nothing. */
  way: string;
  asset: string;
  /** Smallest units a minute, with the bounds of its interval where it was tried. */
  mean: number;
  low: number;
  high: number;
  exact: boolean;
  /** The mean while no limit is reached. */
  first: number;
  /** How many times as much the best way of the same activity pays; 1 for the best itself. */
  behind: number;
  limited: readonly string[];
  /** As in `PlayWay`. */
  shared: readonly string[];
}

const NOTHING: Pay = { mean: 0, low: 0, high: 0 };

/** By asset in the order given, the best first; what never pays any of an asset is left out. */
export function wayRows(ways: readonly PlayWay[], assets: readonly string[]): WayRow[] {
  return assets.flatMap((asset) => {
    const rows = ways.flatMap(({ activity, name, choices, perMinute, first, exact, limited, shared }) =>
      (first[asset]?.mean ?? 0) === 0
        ? []
        : [
            {
              id: activity,
              activity: name,
              way: choicesText(choices),
              asset,
              ...(perMinute[asset] ?? NOTHING),
              exact,
              first: first[asset]!.mean,
              limited,
              shared,
            },
          ],
    );
    const bestOf = (id: string): number => Math.max(...rows.filter((row) => row.id === id).map(({ mean }) => mean));
    return rows
      .sort((a, b) => b.mean - a.mean || b.first - a.first)
      .map(({ id, ...row }) => ({ ...row, behind: row.mean > 0 ? bestOf(id) / row.mean : 1 }));
  });
}
