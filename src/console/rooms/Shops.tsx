/** Shops: shelves and offers as a player sees them, at any instant, each with its verdict. */
import { useQuery } from '@tanstack/react-query';
import { Tabs } from 'radix-ui';
import { Link } from 'react-router';
import { documentLabels } from '../../core/texts/amounts.js';
import { client, useSource } from '../api.js';
import { Picks } from '../parts/Picks.js';
import { useParam } from '../parts/search.js';
import { Arrange } from '../shops/Arrange.js';
import { Cases } from '../shops/Cases.js';
import { FrontSheet } from '../shops/Front.js';
import { Rehearse } from '../shops/Rehearse.js';
import { useLanguage } from '../shops/language.js';
import { keepLast, useQuestion } from '../parts/who.js';
import { Empty, Problem, Waiting } from '../parts/ui.js';

export default function Shops() {
  const [mode, setMode] = useParam('mode', 'look');
  return (
    <Tabs.Root value={mode} onValueChange={setMode} className="flex flex-col gap-3">
      <div className="flex items-center gap-3">
        <h1 className="text-2xl">Shops</h1>
        <Tabs.List aria-label="How to see the shops" className="flex flex-wrap gap-1">
          {[
            ['look', 'As players see them'],
            ['rehearse', 'Rehearse'],
            ['cases', 'Cases'],
            ['arrange', 'Arrange'],
          ].map(([key, name]) => (
            <Tabs.Trigger
              key={key}
              value={key!}
              className="rounded-tag border border-line bg-sheet px-3 py-0.5 font-semibold data-[state=active]:bg-ink data-[state=active]:text-paper"
            >
              {name}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
      </div>
      <Tabs.Content value="look">
        <Look />
      </Tabs.Content>
      <Tabs.Content value="rehearse">
        <Rehearse />
      </Tabs.Content>
      <Tabs.Content value="cases">
        <Cases />
      </Tabs.Content>
      <Tabs.Content value="arrange">
        <Arrange />
      </Tabs.Content>
    </Tabs.Root>
  );
}

function Look() {
  const [source] = useParam('source', 'live');
  const { data: document, isPending } = useSource(source);
  const { question, form } = useQuestion(document);
  const { language, choice } = useLanguage(document);
  const shops = Object.entries(document?.shops ?? {});
  const [shop, setShop] = useParam('shop', shops[0]?.[0] ?? '');
  const { problem, source: from, ...asked } = question;
  const front = useQuery({
    queryKey: ['front', shop, question, language],
    queryFn: () =>
      client.call('GET /shops/{shop}/front', {
        params: { shop },
        query: { ...asked, source: from, ...(language ? { language } : {}) },
      }),
    enabled: shop !== '' && document !== undefined && problem === undefined,
    placeholderData: keepLast,
  });
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-3">
        {form}
        {choice}
      </div>
      <Picks
        label="Shops"
        all={shops.map(([id, { name, icon }]) => ({ id, name, icon }))}
        picked={shop}
        onPick={setShop}
      />
      {problem && <Problem error={new Error(problem)} />}
      <Problem error={front.error} />
      {isPending && source === 'live' && (
        <Empty>
          Nothing is live yet. Look at the draft instead, or{' '}
          <Link className="underline" to="/publish">
            publish
          </Link>
          .
        </Empty>
      )}
      {front.data ? (
        <FrontSheet front={front.data} labels={documentLabels(document)} zone={document?.timeZone} />
      ) : (
        !problem && !front.error && shop !== '' && <Waiting />
      )}
    </div>
  );
}
