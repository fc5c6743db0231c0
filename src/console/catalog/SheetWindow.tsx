/** The button that brings a sheet in and out, and its window, with what reads tables. */
import { Suspense, lazy } from 'react';
import type { SheetName } from '../../core/catalog/index.js';
import { useParam } from '../parts/search.js';
import { Button } from '../parts/ui.js';

const SheetExchange = lazy(() => import('./SheetExchange.js'));

export function SheetWindow({ sheet }: { sheet: SheetName }) {
  const [window, setWindow] = useParam('window', '');
  return (
    <>
      <Button className="self-start" onClick={() => setWindow('sheet')}>
        CSV and paste ...
      </Button>
      {window === 'sheet' && (
        <Suspense fallback={null}>
          <SheetExchange key={sheet} sheet={sheet} onClose={() => setWindow('')} />
        </Suspense>
      )}
    </>
  );
}
