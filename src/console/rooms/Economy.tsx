/** Economy: what it is as a whole, and what has no room of its own: a list and a panel for each section. */
import type { EconomyDocument } from '../../core/document/index.js';
import { SHEET_NAMES } from '../../core/catalog/sheet.js';
import { useDraft, useSchema } from '../api.js';
import { SheetWindow } from '../catalog/SheetWindow.js';
import { BESIDE, Panel } from '../parts/Panel.js';
import { CopyAndDelete, UsedIn } from '../parts/about.js';
import { AddByName } from '../parts/AddByName.js';
import { EditBar } from '../parts/EditBar.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { useEdits } from '../parts/edits.js';
import { OF_THE_ECONOMY } from '../parts/findings.js';
import { useJustMade } from '../parts/justMade.js';
import { useParam, useSetParams } from '../parts/search.js';
import { addOperations } from '../parts/step.js';
import { Empty, Sheet, Waiting } from '../parts/ui.js';

type Section = (typeof OF_THE_ECONOMY)[number];
const SETTINGS = 'settings';

/** Those that others name: of them it is told where. */
const KINDS = {
  attributes: 'attribute',
  events: 'event',
  activities: 'activity',
  personas: 'persona',
  scenarios: 'scenario',
} as const;

/** What one begins with beside its name; undefined where something else must be there first, which `EMPTY` tells. */
const BEGIN: Record<Section, (document: EconomyDocument) => object | undefined> = {
  attributes: () => ({ start: 0 }),
  events: () => ({}),
  earning: ({ events, currencies }) => {
    const [on, currency] = [first(events), first(currencies)];
    return on === undefined || currency === undefined ? undefined : { on, gives: { [currency]: 1 } };
  },
  activities: () => ({ minutes: 5, emits: {} }),
  personas: ({ activities }) => {
    const activity = first(activities);
    return {
      sessions: { perDay: 1, minutes: 15 },
      plays: activity === undefined ? {} : { [activity]: 1 },
      shops: { policy: 'impulse', chance: 0.5 },
    };
  },
  scenarios: ({ personas }) => {
    const persona = first(personas);
    const start = new Date().toISOString().slice(0, 10);
    return persona === undefined ? undefined : { start, days: 30, players: 100, mix: { [persona]: 1 } };
  },
  targets: ({ items }) => {
    const item = first(items);
    return item === undefined ? undefined : { measure: 'days-to-own', item, to: 7 };
  },
  levers: () => ({ moves: 'value', from: 1, to: 100 }),
};
const first = (section: object | undefined): string | undefined => Object.keys(section ?? {})[0];

const EMPTY: Record<Section, string> = {
  attributes: 'What formulas may know of a player, such as a level or a platform. Name the first one above.',
  events: 'What your game reports, such as a race that ends, and what it tells of it. Name the first one above.',
  earning: 'What events pay. It takes an event and a currency first; then name the first rule above.',
  activities: 'What made-up players do, how long it takes, and the events that it ends with. Name the first one above.',
  personas: 'Kinds of made-up players: how often they play, what, and how they spend. Name the first one above.',
  scenarios: 'Simulations that are ready to be run. It takes a persona first; then name the first one above.',
  targets: 'What a run is held against, such as the day by which players own a thing. It takes an item first.',
  levers: 'Numbers that may move while prices are looked for, and how far. Name the first one above.',
};

export default function Economy() {
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const [chosen] = useParam('section', SETTINGS);
  const [open, setOpen] = useParam('open', '');
  const setParams = useSetParams();
  const { fresh, made } = useJustMade(open, setOpen);
  if (!document || !schema) return <Waiting />;
  const section = OF_THE_ECONOMY.find((one) => one === chosen);
  const nodes = schema.properties!;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-1 text-2xl">Economy</h1>
        <nav aria-label="Sections" className="flex flex-wrap gap-1">
          {[SETTINGS, ...OF_THE_ECONOMY].map((one) => (
            <button
              key={one}
              type="button"
              aria-current={one === (section ?? SETTINGS)}
              onClick={() => setParams({ section: one === SETTINGS ? '' : one, open: '' })}
              className={`rounded-tag border border-line px-3 py-0.5 font-semibold ${one === (section ?? SETTINGS) ? 'bg-ink text-paper' : 'bg-sheet'}`}
            >
              {nodes[one]?.title ?? 'Settings'}
            </button>
          ))}
        </nav>
        <EditBar />
      </div>
      {section ? (
        <Things
          key={section}
          section={section}
          word={(nodes[section]!.additionalProperties as { title: string }).title}
          document={document}
          open={open}
          fresh={fresh}
          onOpen={setOpen}
          onMade={made}
        />
      ) : (
        <Sheet title={document.name} className="max-w-2xl">
          <SchemaForm
            pointer=""
            value={document}
            without={Object.keys(nodes).filter((name) => !WHOLE.includes(name))}
          />
        </Sheet>
      )}
    </div>
  );
}

/** What is said of the economy as a whole. */
const WHOLE = ['name', 'timeZone', 'language', 'seed', 'audit'];

function Things({
  section,
  word,
  document,
  open,
  fresh,
  onOpen,
  onMade,
}: {
  section: Section;
  word: string;
  document: EconomyDocument;
  open: string;
  fresh: boolean;
  onOpen: (pointer: string) => void;
  onMade: (pointer: string) => void;
}) {
  const edits = useEdits();
  const things = Object.entries((document[section] ?? {}) as Record<string, Record<string, unknown>>);
  const begin = BEGIN[section](document);
  const id = open.split('/')[2] ?? '';
  const thing = things.find(([one]) => one === id)?.[1];
  const pointer = `/${section}/${id}`;
  const sheet = SHEET_NAMES.find((one) => one === section);
  const kind = section in KINDS ? KINDS[section as keyof typeof KINDS] : undefined;
  return (
    <div className={BESIDE}>
      <div className="flex min-w-0 flex-1 flex-col gap-3">
        {sheet && <SheetWindow sheet={sheet} />}
        {begin && (
          <AddByName
            what={word}
            taken={(one) => things.some(([known]) => known === one)}
            onAdd={(one, name) => {
              edits.apply({ operations: addOperations(document, section, one, { name, ...begin }) });
              onMade(`/${section}/${one}`);
            }}
          />
        )}
        {things.length === 0 ? (
          <Empty>{EMPTY[section]}</Empty>
        ) : (
          <ul className="rounded-sheet border border-line bg-sheet shadow-sheet">
            {things.map(([one, { name }]) => (
              <li key={one}>
                <button
                  type="button"
                  aria-pressed={one === id}
                  onClick={() => onOpen(`/${section}/${one}`)}
                  className={`flex w-full items-baseline gap-3 border-b border-line/50 px-4 py-1 text-left ${one === id ? 'bg-tint-copper' : 'hover:bg-sunk'}`}
                >
                  <span className="font-semibold">{String(name ?? one)}</span>
                  <span className="text-sm text-soft">{one}</span>
                </button>
              </li>
            ))}
          </ul>
        )}
      </div>
      {thing && (
        <Panel title={String(thing['name'] ?? id)} of={pointer} width="w-[440px]" onClose={() => onOpen('')}>
          <div className="flex flex-col gap-3" key={pointer}>
            <CopyAndDelete
              pointer={pointer}
              name={String(thing['name'] ?? id)}
              onGone={() => onOpen('')}
              onMade={onMade}
            />
            <SchemaForm pointer={pointer} value={thing} fresh={fresh} />
            {kind && <UsedIn kind={kind} id={id} />}
          </div>
        </Panel>
      )}
    </div>
  );
}
