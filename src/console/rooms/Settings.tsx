/** Settings: what is said of the economy as a whole. */
import { useDraft, useSchema } from '../api.js';
import { EditBar } from '../parts/EditBar.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { Sheet, Waiting } from '../parts/ui.js';

const WHOLE = ['name', 'timeZone', 'language', 'seed', 'audit'];

export default function Settings() {
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  if (!document || !schema) return <Waiting />;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-1 text-2xl">Settings</h1>
        <EditBar />
      </div>
      <Sheet title={document.name} className="max-w-2xl">
        <SchemaForm
          pointer=""
          value={document}
          without={Object.keys(schema.properties!).filter((name) => !WHOLE.includes(name))}
        />
      </Sheet>
    </div>
  );
}
