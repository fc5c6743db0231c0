/** Beside the charts: what a run is made of, changed in the draft while the charts follow. */
import type { EconomyDocument } from '../../core/document/index.js';
import { ThingForm, ThingList, thingsOf } from '../parts/Things.js';
import type { Section } from '../parts/Things.js';
import { useJustMade } from '../parts/justMade.js';
import { useParam, useSetParams } from '../parts/search.js';

const SECTIONS: readonly { id: Section; words: string }[] = [
  { id: 'scenarios', words: 'Scenarios' },
  { id: 'personas', words: 'Personas' },
  { id: 'activities', words: 'Activities' },
  { id: 'targets', words: 'Targets' },
];

/** `scenario`: the one on the bench, which is open first. */
export function Made({ document, scenario }: { document: EconomyDocument; scenario: string }) {
  const [wanted] = useParam('section', 'scenarios');
  const { id: section } = SECTIONS.find(({ id }) => id === wanted) ?? SECTIONS[0]!;
  const [open, setOpen] = useParam('open', `/scenarios/${scenario}`);
  const setParams = useSetParams();
  const { fresh, made, mark } = useJustMade(open, setOpen);
  const [, openSection, id = ''] = open.split('/');
  const thing = openSection === section ? thingsOf(document, section)[id] : undefined;
  /** A scenario that is open is the one on the bench. */
  const show = (pointer: string): void =>
    setParams({ open: pointer, ...(section === 'scenarios' ? { scenario: pointer.split('/')[2] ?? '' } : {}) });
  return (
    <section aria-label="What it is made of" className="flex flex-col gap-2">
      <nav aria-label="Of the run" className="flex flex-wrap gap-x-3">
        {SECTIONS.map((one) => (
          <button
            key={one.id}
            type="button"
            aria-current={one.id === section}
            onClick={() => setParams({ section: one.id, open: '' })}
            className={one.id === section ? 'font-semibold underline decoration-copper decoration-2' : ''}
          >
            {one.words}
          </button>
        ))}
      </nav>
      <ThingList
        {...{ section, document, open }}
        onOpen={show}
        onMade={(pointer) => {
          mark(pointer);
          show(pointer);
        }}
      />
      {thing && <ThingForm {...{ section, id, thing, fresh }} onMade={made} onGone={() => show('')} />}
    </section>
  );
}
