/** One item, currency, group or store in full: every field, its picture, where it is used, where it flows. */
import { useRef, useState } from 'react';
import type { SectionSheet } from '../../core/catalog/index.js';
import type { EconomyDocument, ItemDocument } from '../../core/document/index.js';
import { KIND_FIELDS, kindHas } from '../../core/document/itemKinds.js';
import type { KindField } from '../../core/document/index.js';
import { pointerSegments } from '../../core/issue/index.js';
import { client } from '../api.js';
import { CopyAndDelete, Flow, UsedIn } from '../parts/about.js';
import { useEdits } from '../parts/edits.js';
import { fieldOperation } from '../parts/step.js';
import { Icon } from '../parts/Icon.js';
import { Panel } from '../parts/Panel.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { Button, Empty, Problem } from '../parts/ui.js';

/** What each section's entries are, to those that refer to them. */
const KINDS = { items: 'asset', currencies: 'asset', groups: 'group', stores: 'store' } as const;

export function ThingPanel({
  pointer,
  document,
  fresh,
  onOpen,
  onMade,
}: {
  pointer: string;
  document: EconomyDocument;
  /** It was just made. */
  fresh: boolean;
  onOpen: (pointer: string) => void;
  onMade: (pointer: string) => void;
}) {
  const [section, id] = pointerSegments(pointer) as [SectionSheet, string];
  const thing = document[section]?.[id] as Record<string, unknown> | undefined;
  if (!thing)
    return (
      <Panel title={id} of={pointer} onClose={() => onOpen('')}>
        <Empty>It is not in the draft. Undo brings back what was deleted.</Empty>
      </Panel>
    );
  const name = String(thing['name'] ?? id);
  return (
    <Panel title={name} of={pointer} onClose={() => onOpen('')}>
      <div className="flex flex-col gap-3">
        {section === 'items' && <Picture pointer={pointer} id={id} icon={thing['icon'] as string | undefined} />}
        <CopyAndDelete key={pointer} pointer={pointer} name={name} onGone={() => onOpen('')} onMade={onMade} />
        <SchemaForm
          pointer={pointer}
          value={thing}
          fresh={fresh}
          without={section === 'items' ? unusedBy(thing as ItemDocument) : []}
        />
        {KINDS[section] === 'asset' && <Flow asset={id} />}
        <UsedIn kind={KINDS[section]} id={id} />
      </div>
    </Panel>
  );
}

/** Fields that an item's kind does not have, and that it does not hold either: what stands there wrongly can be taken away. */
const unusedBy = (item: ItemDocument): readonly KindField[] =>
  KIND_FIELDS.filter((field) => !kindHas(item.kind, field) && item[field] === undefined);

const TYPES = 'image/png,image/jpeg,image/webp,image/gif';

function Picture({ pointer, id, icon }: { pointer: string; id: string; icon: string | undefined }) {
  const { apply } = useEdits();
  const input = useRef<HTMLInputElement>(null);
  const [error, setError] = useState<unknown>(null);
  const upload = async (file: File) => {
    const ending = /\.[a-z]+$/i.exec(file.name)?.[0].toLowerCase() ?? '.png';
    const saved = await client.call('PUT /pictures/{picture}', {
      params: { picture: `${id}${ending}` },
      type: file.type || 'application/octet-stream',
      body: file,
    });
    const change = fieldOperation(pointer, 'icon', icon, `pictures/${saved.name}`);
    setError(null);
    if (change) apply({ operations: [change] });
  };
  return (
    <div className="flex flex-col gap-1">
      <span className="flex items-center gap-3">
        <Icon icon={icon ?? '🏷️'} className="text-4xl leading-none" />
        <input
          ref={input}
          type="file"
          accept={TYPES}
          aria-label="Picture file"
          className="sr-only"
          tabIndex={-1}
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) upload(file).catch(setError);
            event.target.value = '';
          }}
        />
        <Button className="shrink-0" onClick={() => input.current?.click()}>
          Upload a picture
        </Button>
        <span className="text-sm text-soft">up to 512 kB</span>
      </span>
      <Problem error={error} />
    </div>
  );
}
