/** Who plays, what they do, and what a run is held against: a list and a panel for each section. */
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { SHEET_NAMES } from '../../core/catalog/sheet.js';
import { useDraft, useSchema } from '../api.js';
import { SheetWindow } from '../catalog/SheetWindow.js';
import { BESIDE, Panel } from '../parts/Panel.js';
import { Picks } from '../parts/Picks.js';
import { EditBar } from '../parts/EditBar.js';
import { OF_PLAY } from '../parts/findings.js';
import { useJustMade } from '../parts/justMade.js';
import { ThingForm, ThingList, thingsOf } from '../parts/Things.js';
import type { Section } from '../parts/Things.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Waiting } from '../parts/ui.js';

export function WhoPlays() {
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const [chosen] = useParam('section', OF_PLAY[0]);
  const [open, setOpen] = useParam('open', '');
  const setParams = useSetParams();
  const { fresh, made } = useJustMade(open, setOpen);
  if (!document || !schema) return <Waiting />;
  const section = OF_PLAY.find((one) => one === chosen) ?? OF_PLAY[0];
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-1 text-2xl">Who plays</h1>
        <Picks
          label="Sections"
          all={OF_PLAY.map((one) => ({ id: one, name: schema.properties![one]?.title ?? one }))}
          picked={section}
          onPick={(one) => setParams({ section: one === OF_PLAY[0] ? '' : one, open: '' })}
        />
        <Link className="ml-2 underline" to="/simulate">
          Back to the bench
        </Link>
        <EditBar />
      </div>
      <Things
        key={section}
        section={section}
        document={document}
        open={open}
        fresh={fresh}
        onOpen={setOpen}
        onMade={made}
      />
    </div>
  );
}

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
