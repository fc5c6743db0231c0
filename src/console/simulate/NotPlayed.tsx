/** What made-up players do not do though the economy has it: the figures beside it leave it out. */
import { unplayedTexts } from '../../core/simulation/report.js';
import type { SimulationResult } from '../../core/simulation/index.js';

export function NotPlayed({ result }: { result: SimulationResult }) {
  const [first, ...more] = unplayedTexts(result);
  if (first === undefined) return null;
  return (
    <details className="text-sm text-soft">
      <summary>
        <span className="font-semibold">Not played, so the figures leave it out.</span> {first}
        {more.length > 0 && ` And ${more.length} more.`}
      </summary>
      {more.map((text) => (
        <p key={text}>{text}</p>
      ))}
    </details>
  );
}
