/** Economy: what it is as a whole, and what has no room of its own: a list and a panel for each section. */
import { Navigate, useLocation } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { SHEET_NAMES } from '../../core/catalog/sheet.js';
import { useDraft, useSchema } from '../api.js';
import { SheetWindow } from '../catalog/SheetWindow.js';
import { BESIDE, Panel } from '../parts/Panel.js';
import { Picks } from '../parts/Picks.js';
import { EditBar } from '../parts/EditBar.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { OF_EARNING, OF_THE_ECONOMY, roomOf } from '../parts/findings.js';
import { useJustMade } from '../parts/justMade.js';
import { ThingForm, ThingList, thingsOf } from '../parts/Things.js';
import type { Section } from '../parts/Things.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Sheet, Waiting } from '../parts/ui.js';

const SETTINGS = 'settings';
const HERE = OF_THE_ECONOMY.filter((section) => !OF_EARNING.some((one) => one === section));

export default function Economy() {
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const [chosen] = useParam('section', SETTINGS);
  const [open, setOpen] = useParam('open', '');
  const setParams = useSetParams();
  const location = useLocation();
  const { fresh, made } = useJustMade(open, setOpen);
  if (!document || !schema) return <Waiting />;
  const section = OF_THE_ECONOMY.find((one) => one === chosen);
  if (section && roomOf(section) !== '/economy')
    return <Navigate replace to={{ pathname: roomOf(section), search: location.search }} />;
  const nodes = schema.properties!;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-1 text-2xl">Economy</h1>
        <Picks
          label="Sections"
          all={[SETTINGS, ...HERE].map((one) => ({ id: one, name: nodes[one]?.title ?? 'Settings' }))}
          picked={section ?? SETTINGS}
          onPick={(one) => setParams({ section: one === SETTINGS ? '' : one, open: '' })}
        />
        <EditBar />
      </div>
      {section ? (
        <Things
          key={section}
          section={section}
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
  document,
  open,
  fresh,
  onOpen,
  onMade,
}: {
  section: Section;
  document: EconomyDocument;
  open: string;
  fresh: boolean;
  onOpen: (pointer: string) => void;
  onMade: (pointer: string) => void;
}) {
  const id = open.split('/')[2] ?? '';
  const thing = thingsOf(document, section)[id];
  const sheet = SHEET_NAMES.find((one) => one === section);
  return (
    <div className={BESIDE}>
      <div className="flex min-w-0 flex-1 flex-col gap-3">
        {sheet && <SheetWindow sheet={sheet} />}
        <ThingList {...{ section, document, open, onOpen, onMade }} />
      </div>
      {thing && (
        <Panel title={String(thing['name'] ?? id)} of={open} width="w-[440px]" onClose={() => onOpen('')}>
          <ThingForm {...{ section, id, thing, fresh, onMade }} onGone={() => onOpen('')} />
        </Panel>
      )}
    </div>
  );
}
