import { useState } from 'react';
import type { Column } from '../lib/api';
import { useDesk } from '../lib/edits';
import { Dialog, Ends } from '../parts/Dialog';
import { Labelled, TextField } from '../parts/Text';

/** How many values can be renamed in the dialog. */
const most = 60;

/** Gives a column, and its values, other names; the cells stay as they came. */
export function Rename({ column: c, close }: { column: Column; close: () => void }) {
  const { question, editStudy } = useDesk();
  const [name, setName] = useState(c.name);
  const [to, setTo] = useState<Record<string, string>>({});
  const named = ['segment', 'wave', 'several answers'].includes(c.role);
  const values = named ? (question.variables.find((v) => v.name === c.name)?.values ?? []).slice(0, most) : [];
  const changed = values
    .map((from) => ({ from, to: (to[from] ?? from).trim() }))
    .filter((v) => v.to && v.to !== v.from);
  const ready = !!name.trim() && (name.trim() !== c.name || changed.length > 0);
  return (
    <Dialog title={`Rename ${c.name}`} close={close}>
      <form
        className="grid gap-2"
        onSubmit={async (e) => {
          e.preventDefault();
          if (await editStudy({ kind: 'rename', name: c.name, to: name.trim(), values: changed })) close();
        }}
      >
        <p className="text-soft">
          Rules, focuses and further files find it by its old name, too. The cells stay as they came, in files as well.
        </p>
        <Labelled name="Name of the column">
          <TextField wide autoFocus maxLength={200} value={name} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        {values.length > 0 && (
          <table className="border-collapse [&_td]:py-0.5 [&_td]:pr-3">
            <tbody>
              {values.map((v) => (
                <tr key={v}>
                  <td className="break-words">{v}</td>
                  <td>
                    is called{' '}
                    <TextField
                      aria-label={`${v} is called`}
                      placeholder={v}
                      maxLength={200}
                      value={to[v] ?? ''}
                      onChange={(e) => setTo({ ...to, [v]: e.target.value })}
                    />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        <Ends go="Rename" ready={ready} close={close} />
      </form>
    </Dialog>
  );
}
