/** Where there is nothing yet: what the economy is called and where it is, a small one to begin with, or files that are there. */
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { client } from '../api.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { Button, Problem, Sheet } from '../parts/ui.js';
import { STARTERS } from './starters.js';

export default function Begin({ document, revision }: { document: EconomyDocument; revision: number }) {
  const queries = useQueryClient();
  const [error, setError] = useState<unknown>(null);
  const bringIn = (files: { path: string; text: string }[], why: string): void => {
    setError(null);
    client
      .call('POST /draft/import', { body: { files }, revision, query: { why } })
      .then(() => queries.invalidateQueries(), setError);
  };
  const read = async (list: FileList): Promise<void> => {
    // The list empties itself as soon as the field is free for another choice.
    const chosen = [...list];
    const { economyFilesOf } = await import('./files.js');
    const files = await economyFilesOf(chosen);
    bringIn(files, `from ${files.length} files`);
  };
  return (
    <div className="grid gap-3 lg:grid-cols-2">
      <Sheet title="Your economy">
        <SchemaForm pointer="" value={document} without={Object.keys(REST)} />
      </Sheet>
      <Sheet title="Or begin with a small one">
        <ul className="flex flex-col gap-2">
          {STARTERS.map(({ id, name, words, files }) => (
            <li key={id} className="flex items-start gap-3 border-b border-line/50 pb-2">
              <span className="flex-1">
                <span className="font-semibold">{name}</span>
                <br />
                <span className="text-sm text-soft">{words}</span>
              </span>
              <Button onClick={() => bringIn(files, name)} aria-label={`Begin with: ${name}`}>
                Begin with it
              </Button>
            </li>
          ))}
          <li className="flex flex-wrap items-center gap-3">
            <span className="flex-1">
              <span className="font-semibold">Files that you have</span>
              <br />
              <span className="text-sm text-soft">
                Economy files in YAML or JSON, one or many, their folder, or a zip of it.
              </span>
            </span>
            <FilesButton words="Choose files" onChosen={read} onError={setError} />
            <FilesButton words="Choose a folder" folder onChosen={read} onError={setError} />
          </li>
          <li className="flex items-center gap-3 border-t border-line/50 pt-2">
            <span className="flex-1">
              <span className="font-semibold">A table that you have</span>
              <br />
              <span className="text-sm text-soft">
                Items in a spreadsheet, with columns of any name: paste the rows, and say what each column is.
              </span>
            </span>
            <Link
              to="/catalog?window=sheet"
              className="rounded-tag border border-line bg-sheet px-3 py-1 font-semibold hover:bg-sunk"
            >
              Paste a table
            </Link>
          </li>
        </ul>
        <Problem error={error} />
      </Sheet>
    </div>
  );
}

/** Told in their own rooms. */
const REST: Record<Exclude<keyof EconomyDocument, 'name' | 'timeZone' | 'language'>, true> = {
  seed: true,
  attributes: true,
  events: true,
  groups: true,
  currencies: true,
  items: true,
  loot: true,
  stores: true,
  shops: true,
  sales: true,
  texts: true,
  earning: true,
  goals: true,
  tracks: true,
  teams: true,
  rankings: true,
  activities: true,
  personas: true,
  scenarios: true,
  targets: true,
  levers: true,
  cases: true,
  audit: true,
};

function FilesButton({
  words,
  folder = false,
  onChosen,
  onError,
}: {
  words: string;
  folder?: boolean;
  onChosen: (files: FileList) => Promise<void>;
  onError: (error: unknown) => void;
}) {
  return (
    <label className="cursor-pointer rounded-tag border border-line bg-sheet px-3 py-1 font-semibold focus-within:outline-2 focus-within:outline-copper hover:bg-sunk">
      {words}
      <input
        type="file"
        multiple
        className="sr-only"
        {...(folder ? { webkitdirectory: '' } : { accept: '.yaml,.yml,.json,.zip' })}
        onChange={({ target }) => {
          if (target.files && target.files.length > 0) onChosen(target.files).catch(onError);
          target.value = '';
        }}
      />
    </label>
  );
}
