/** Shops: shelves and offers as a player sees them, at any instant, each with its verdict. */
import { useQuery } from '@tanstack/react-query';
import { Tabs } from 'radix-ui';
import { useState } from 'react';
import { Link } from 'react-router';
import { documentLabels } from '../../core/texts/amounts.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { client, useChanges, useChannels, useDraft, useSource } from '../api.js';
import { Picks } from '../parts/Picks.js';
import { PersonaChoice } from '../parts/playtime.js';
import { useParam } from '../parts/search.js';
import { Arrange } from '../shops/Arrange.js';
import { Cases } from '../shops/Cases.js';
import { Ladder } from '../shops/Ladder.js';
import { FrontSheet } from '../shops/Front.js';
import { Rehearse } from '../shops/Rehearse.js';
import { useLanguage } from '../shops/language.js';
import { keepLast, useQuestion } from '../parts/who.js';
import { Empty, Problem, Waiting } from '../parts/ui.js';

export default function Shops() {
  const document = useDraft().data?.document;
  const channels = useChannels().data;
  const changes = useChanges();
  if (!document || !channels || changes.isPending) return <Waiting />;
  const isLive = channels.items.some(({ name, release }) => name === 'live' && release !== null);
  const differs = (changes.data?.changes ?? []).length > 0;
  return <Modes document={document} usualSource={isLive && !differs ? 'live' : 'draft'} />;
}

/** Where one begins: with nothing on the shelves there is nothing to look at. */
const firstMode = ({ shops = {} }: EconomyDocument): string =>
  Object.values(shops).some((shop) => Object.values(shop.shelves).some(({ offers }) => Object.keys(offers).length > 0))
    ? 'look'
    : 'arrange';

/** What is usual is decided when one comes in: the first offer leads nobody away. */
function Modes({ document, usualSource }: { document: EconomyDocument; usualSource: string }) {
  const [usual] = useState({ mode: firstMode(document), source: usualSource });
  const [mode, setMode] = useParam('mode', usual.mode);
  return (
    <Tabs.Root value={mode} onValueChange={setMode} className="flex flex-col gap-3">
      <div className="flex items-center gap-3">
        <h1 className="text-2xl">Shops</h1>
        <Tabs.List aria-label="How to see the shops" className="flex flex-wrap gap-1">
          {[
            ['arrange', 'Arrange'],
            ['look', 'As players see them'],
            ['rehearse', 'Rehearse'],
            ['cases', 'Cases'],
            ['ladder', 'Ladder'],
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
        <span className="ml-auto">
          <PersonaChoice />
        </span>
      </div>
      <Tabs.Content value="look">
        <Look usual={usual.source} />
      </Tabs.Content>
      <Tabs.Content value="rehearse">
        <Rehearse />
      </Tabs.Content>
      <Tabs.Content value="cases">
        <Cases />
      </Tabs.Content>
      <Tabs.Content value="ladder">
        <Ladder />
      </Tabs.Content>
      <Tabs.Content value="arrange">
        <Arrange />
      </Tabs.Content>
    </Tabs.Root>
  );
}

/** `usual`: what is looked at where the address does not say: the draft where it differs from what is live. */
function Look({ usual }: { usual: string }) {
  const [source] = useParam('source', usual);
  const { data: document, isPending } = useSource(source);
  const { question, form } = useQuestion(document, usual);
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
