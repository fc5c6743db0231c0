/** Earning: what the game reports, what that pays, and what players work towards; made here, and tried. */
import { useState } from 'react';
import { SHEET_NAMES } from '../../core/catalog/sheet.js';
import { useDraft, useSchema } from '../api.js';
import { SheetWindow } from '../catalog/SheetWindow.js';
import { LevelTable } from '../earning/LevelTable.js';
import { Places } from '../earning/Places.js';
import { Teams } from '../earning/Teams.js';
import { TryIt } from '../earning/TryIt.js';
import { SheetGrid } from '../grid/SheetGrid.js';
import type { GridRow } from '../grid/columns.js';
import { BESIDE, Panel } from '../parts/Panel.js';
import { Picks } from '../parts/Picks.js';
import { EditBar } from '../parts/EditBar.js';
import { AddThing, ThingForm, ThingList, thingsOf } from '../parts/Things.js';
import { OF_EARNING } from '../parts/findings.js';
import { PersonaChoice } from '../parts/playtime.js';
import { useJustMade } from '../parts/justMade.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Button, Input, Waiting } from '../parts/ui.js';

/** The tab that is no section. */
const TRY = 'try';
/** Written in the table beside the form. */
const LEVELS = ['levels'];

export default function Earning() {
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const [chosen] = useParam('section', OF_EARNING[0]);
  const [open, setOpen] = useParam('open', '');
  const [find, setFind] = useParam('find', '');
  const [selected, setSelected] = useState<GridRow[]>([]);
  const setParams = useSetParams();
  const { fresh, made } = useJustMade(open, setOpen);
  if (!document || !schema) return <Waiting />;
  const isTry = chosen === TRY;
  const section = OF_EARNING.find((one) => one === chosen) ?? OF_EARNING[0];
  const sheet = SHEET_NAMES.find((one) => one === section);
  const [, openSection, id = ''] = open.split('/');
  const thing = openSection === section ? thingsOf(document, section)[id] : undefined;
  /** What is open, else what is picked in the grid, else the first. */
  const shownOf = (of: 'rankings' | 'tracks'): string | undefined => {
    const known = Object.keys(document[of] ?? {});
    const picked = selected.find(({ pointer }) => pointer.startsWith(`/${of}/`))?.id;
    return section === of && !isTry
      ? [thing && id, picked, known[0]].find((one) => known.includes(one ?? ''))
      : undefined;
  };
  const [ranking, track] = [shownOf('rankings'), shownOf('tracks')];
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-1 text-2xl">Earning</h1>
        <Picks
          label="Sections"
          all={[
            ...OF_EARNING.map((one) => ({ id: one, name: schema.properties![one]?.title ?? one })),
            { id: TRY, name: 'Try it' },
          ]}
          picked={isTry ? TRY : section}
          onPick={(one) => {
            setSelected([]);
            // A track has little to list and much to show: the first is open.
            const [first] = one === 'tracks' ? Object.keys(document.tracks ?? {}) : [];
            setParams({
              section: one === OF_EARNING[0] ? '' : one,
              open: first === undefined ? '' : `/tracks/${first}`,
              sort: '',
            });
          }}
        />
        {sheet && !isTry && (
          <Input
            aria-label="Find"
            placeholder="Find ..."
            className="w-40"
            value={find}
            onChange={({ target }) => setFind(target.value)}
          />
        )}
        <EditBar />
      </div>
      {isTry ? (
        <TryIt document={document} />
      ) : (
        <div className={BESIDE} key={section}>
          <div className="flex min-w-0 flex-1 flex-col gap-3">
            {sheet ? (
              <>
                <div className="flex flex-wrap items-center gap-2">
                  <AddThing {...{ section, document }} onMade={made} />
                  <SheetWindow sheet={sheet} />
                  {(sheet === 'earning' || sheet === 'goals') && <PersonaChoice />}
                  {selected.length === 1 && (
                    <Button onClick={() => setOpen(selected[0]!.pointer)}>Open {selected[0]!.id}</Button>
                  )}
                </div>
                <SheetGrid
                  sheet={sheet}
                  filter={find}
                  all={false}
                  open={open}
                  onOpen={setOpen}
                  onSelect={setSelected}
                  empty={<ThingList {...{ section, document, open }} onOpen={setOpen} onMade={made} begins={false} />}
                />
                {section === 'teams' && document.teams && (
                  <Teams document={document} kind={thing === undefined ? undefined : id} />
                )}
                {ranking !== undefined && (
                  <Places
                    key={ranking}
                    document={document}
                    ranking={ranking}
                    name={document.rankings![ranking]!.name}
                  />
                )}
              </>
            ) : (
              <>
                <ThingList {...{ section, document, open }} onOpen={setOpen} onMade={made} />
                {track !== undefined && <LevelTable document={document} track={track} />}
              </>
            )}
          </div>
          {thing && (
            <Panel title={String(thing['name'] ?? id)} of={open} width="w-[440px]" onClose={() => setOpen('')}>
              <ThingForm
                {...{ section, id, thing, fresh }}
                without={section === 'tracks' ? LEVELS : undefined}
                onMade={made}
                onGone={() => setOpen('')}
              />
            </Panel>
          )}
        </div>
      )}
    </div>
  );
}
