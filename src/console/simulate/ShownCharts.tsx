/** The charts of the bench, of the persona, thing and currency that the address names; a few at first, the rest one click away. */
import type { EconomyDocument } from '../../core/document/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import { LevelsChart, WalletChart } from '../charts/BandChart.js';
import { FlowDaysChart } from '../charts/FlowDaysChart.js';
import { PayChart, PricesChart, ShareChart, SupplyChart, UnevenChart } from '../charts/benchCharts.js';
import type { Drawn } from '../charts/benchFrame.js';
import { Picker } from '../fields/Picker.js';
import { useParam } from '../parts/search.js';
import { Button, Choice } from '../parts/ui.js';
import { GoalsReached } from './GoalsReached.js';
import { Uptake } from './Uptake.js';

export function ShownCharts({
  document,
  drawn,
  more,
  onMore,
}: {
  document: EconomyDocument;
  drawn: readonly Drawn[];
  more: boolean;
  onMore: () => void;
}) {
  const { result } = drawn[0]!;
  const owned = itemsOf(result);
  // What the run's targets are about is looked at first.
  const targets = result.targets.flatMap(({ id }) => document.targets?.[id] ?? []);
  const named = <K extends 'item' | 'persona' | 'currency'>(field: K) =>
    targets.find((one) => one[field] !== undefined)?.[field];
  const [item, setItem] = useParam('item', named('item') ?? owned[0]?.value ?? '');
  const [persona, setPersona] = useParam('persona', named('persona') ?? result.personas[0]!.id);
  const [currency, setCurrency] = useParam('currency', named('currency') ?? result.currencies[0]?.id ?? '');
  const isOwned = item === '' || owned.some(({ value }) => value === item);
  const items = isOwned ? owned : [{ value: item, label: document.items?.[item]?.name ?? item }, ...owned];
  const who = Math.max(
    0,
    result.personas.findIndex(({ id }) => id === persona),
  );
  const money = Math.max(
    0,
    result.currencies.findIndex(({ id }) => id === currency),
  );
  const personaId = result.personas[who]!.id;
  const wanted = Object.values(document.targets ?? {}).find(
    (one) => one.measure === 'days-to-own' && one.item === item && (one.persona ?? personaId) === personaId,
  );
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2 text-sm">
        <Choice
          label="Persona in the charts"
          value={personaId}
          options={result.personas.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={setPersona}
        />
        {items.length > 0 && (
          <Picker
            label="Thing in the charts"
            word="thing"
            value={item}
            options={items.map(({ value, label }) => ({ id: value, label, hint: '' }))}
            needed
            onPick={(next) => setItem(next ?? '')}
            className="w-44"
          />
        )}
        <Choice
          label="Currency in the charts"
          value={result.currencies[money]!.id}
          options={result.currencies.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={setCurrency}
        />
        <Button className="ml-auto py-0" aria-expanded={more} onClick={onMore}>
          {more ? 'Fewer charts' : 'More charts'}
        </Button>
      </div>
      <div className="grid gap-2 xl:grid-cols-2">
        <ShareChart
          drawn={drawn}
          item={item}
          name={items.find(({ value }) => value === item)?.label ?? item}
          persona={personaId}
          from={wanted?.from}
          to={wanted?.to}
          percentile={wanted && (wanted.percentile ?? 50)}
        />
        <WalletChart drawn={drawn} persona={who} currency={money} />
        <FlowDaysChart drawn={drawn} currency={money} />
        <PayChart drawn={drawn} currency={money} />
        {more && (
          <>
            <SupplyChart drawn={drawn} currency={money} />
            <PricesChart drawn={drawn} currency={money} />
            <UnevenChart drawn={drawn} currency={money} />
            {tracksOf(result).map(({ track, name }) => (
              <LevelsChart key={track} drawn={drawn} persona={who} track={track} name={name} />
            ))}
          </>
        )}
      </div>
      {more && <GoalsReached drawn={drawn} />}
      {more && <Uptake document={document} drawn={drawn} />}
    </div>
  );
}

/** Tracks by name. */
const tracksOf = ({ heights }: SimulationResult) =>
  [...new Map((heights?.track ?? []).map((track, row) => [track, heights!.name[row]!]))].map(([track, name]) => ({
    track,
    name,
  }));

/** Things that somebody came to own, by name. */
const itemsOf = ({ items }: SimulationResult) =>
  [...new Map(items.item.map((item, row) => [item, items.name[row]!]))].map(([value, label]) => ({ value, label }));
