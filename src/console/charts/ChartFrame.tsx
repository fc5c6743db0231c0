/** Around every chart: it can be read as a table, and saved as CSV or PNG. */
import { useRef, useState } from 'react';
import type { ReactNode } from 'react';
import { Button, DataTable } from '../parts/ui.js';
import { toCsv } from './csv.js';

export interface TableData {
  head: string[];
  rows: (string | number | null)[][];
}

export function ChartFrame({ title, table, children }: { title: string; table: TableData; children: ReactNode }) {
  const [asTable, setAsTable] = useState(false);
  const chart = useRef<HTMLDivElement>(null);
  return (
    <figure className="rounded-sheet border border-line bg-sheet p-2">
      <figcaption className="flex flex-wrap items-center justify-between gap-x-2 px-1 pb-1">
        <span className="font-semibold">{title}</span>
        <span className="flex gap-1 text-sm">
          <Button
            className="px-2 py-0"
            aria-pressed={asTable}
            onClick={() => setAsTable(!asTable)}
            aria-label={`${title} as a ${asTable ? 'chart' : 'table'}`}
          >
            {asTable ? 'Chart' : 'Table'}
          </Button>
          <Button
            className="px-2 py-0"
            onClick={() => saveFile(`${title}.csv`, new Blob([toCsv(table.head, table.rows)], { type: 'text/csv' }))}
            aria-label={`Save ${title} as CSV`}
          >
            CSV
          </Button>
          {!asTable && (
            <Button
              className="px-2 py-0"
              onClick={() => {
                void savePng(`${title}.png`, chart.current);
              }}
              aria-label={`Save ${title} as PNG`}
            >
              PNG
            </Button>
          )}
        </span>
      </figcaption>
      {asTable ? (
        <div className="max-h-56 overflow-auto" tabIndex={0} role="region" aria-label={`${title}, as a list`}>
          <DataTable
            label={title}
            rows={table.rows}
            rowKey={(_, index) => String(index)}
            columns={table.head.map((head, column) => ({
              head,
              right: column > 0,
              cell: (row: TableData['rows'][number]) => row[column] ?? '-',
            }))}
          />
        </div>
      ) : (
        <div ref={chart}>{children}</div>
      )}
    </figure>
  );
}

/** Gives the browser a file to keep. */
export function saveFile(name: string, content: Blob): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(content);
  link.download = name.replace(/[^\w. -]+/g, '_');
  link.click();
  URL.revokeObjectURL(link.href);
}

/** Draws the chart's SVG, with the colours it has on the page, on a canvas of twice the size. */
async function savePng(name: string, frame: HTMLElement | null): Promise<void> {
  const svg = frame?.querySelector('svg');
  if (!svg) return;
  const { width, height } = svg.getBoundingClientRect();
  const tokens = getComputedStyle(document.documentElement);
  const source = new XMLSerializer()
    .serializeToString(svg)
    .replace(/var\((--[\w-]+)\)/g, (_, token: string) => tokens.getPropertyValue(token).trim());
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(source)}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = width * 2;
  canvas.height = height * 2;
  const context = canvas.getContext('2d')!;
  context.fillStyle = tokens.getPropertyValue('--sheet');
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  canvas.toBlob((blob) => {
    if (blob) saveFile(name, blob);
  });
}
