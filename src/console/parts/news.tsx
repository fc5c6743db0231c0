/** What others do while one works: their saves are shown as they come, with who and what. */
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { StreamEvent } from '../../contract/index.js';
import { client } from '../api.js';
import { Button } from './ui.js';

const AGAIN_MS = 3000;

interface NewsItem {
  id: string;
  title: string;
  lines: string[];
}

/** What depends on channels, releases and rotations. */
const DEPENDENT = ['channels', 'releases', 'changes', 'calendar', 'rotations', 'front', 'source', 'moves'];

function newsOf({ id, type, subject, data }: StreamEvent): NewsItem | undefined {
  const who = String(data['who']);
  const release = String(data['release']);
  switch (type) {
    case 'dimestall.channel.moved':
      return { id, title: `${subject} now points at release ${release} (${who})`, lines: [] };
    case 'dimestall.channel.scheduled':
      return {
        id,
        title: `${who} set release ${release} to come on ${subject}`,
        lines: [new Date(Number(data['atMs'])).toLocaleString('en-GB')],
      };
    case 'dimestall.rotation.recorded':
      return { id, title: `${who} changed what ${subject} shows`, lines: [] };
    default:
      return undefined;
  }
}

/**
 * Listens to the service. `onSaved` is told of a saved revision once one's own saves are answered, and says whether it
 * was another's.
 */
export function useNews(onSaved: (revision: number) => boolean, busy: boolean) {
  const queries = useQueryClient();
  const [item, setItem] = useState<NewsItem | null>(null);
  const waiting = useRef<StreamEvent[]>([]);
  const now = useRef({ onSaved, busy });
  const take = useCallback(() => {
    if (now.current.busy) return;
    const last = waiting.current.splice(0).findLast(({ data }) => now.current.onSaved(Number(data['revision'])));
    if (!last) return;
    const changes = (last.data['changes'] as { words: string }[]).map(({ words }) => words);
    setItem({
      id: last.id,
      title: `${String(last.data['who'])} saved revision ${String(last.data['revision'])}`,
      lines: changes.slice(0, 4).concat(changes.length > 4 ? [`and ${changes.length - 4} more`] : []),
    });
  }, []);
  useEffect(() => {
    now.current = { onSaved, busy };
    // What came while one's own saves were on their way can be told from them now.
    if (!busy) queueMicrotask(take);
  }, [onSaved, busy, take]);
  useEffect(() => {
    const stop = new AbortController();
    let wasHeard = false;
    const onOpen = (): void => {
      document.documentElement.setAttribute('data-hearing', 'yes');
      // What was saved while nothing could be heard.
      if (wasHeard) void queries.invalidateQueries();
      wasHeard = true;
    };
    const listen = (): void => {
      client
        .listen(
          'GET /stream',
          {},
          (event) => {
            if (event.type === 'dimestall.draft.saved') {
              waiting.current.push(event);
              take();
              return;
            }
            if (event.type === 'dimestall.missed') void queries.invalidateQueries();
            for (const key of DEPENDENT) void queries.invalidateQueries({ queryKey: [key] });
            const news = newsOf(event);
            if (news) setItem(news);
          },
          { signal: stop.signal, onOpen },
        )
        .catch(() => undefined)
        .finally(() => {
          // The service was restarted, say: what happens from then on is heard again.
          if (!stop.signal.aborted) window.setTimeout(listen, AGAIN_MS);
        });
    };
    listen();
    return () => stop.abort();
  }, [queries, take]);
  return { item, onClose: () => setItem(null) };
}

export function News({ item, onClose }: { item: NewsItem | null; onClose: () => void }) {
  return (
    <div role="status" aria-label="What others do" className="fixed right-4 bottom-4 z-40">
      {item && (
        <div
          key={item.id}
          className="flex max-w-md items-start gap-3 rounded-sheet border border-line bg-ink px-4 py-2 text-paper shadow-sheet"
        >
          <div>
            <p className="font-semibold">{item.title}</p>
            {item.lines.map((line) => (
              <p key={line} className="text-sm">
                {line}
              </p>
            ))}
          </div>
          <Button onClick={onClose} className="py-0 text-sm" aria-label="Close the news">
            ✕
          </Button>
        </div>
      )}
    </div>
  );
}
