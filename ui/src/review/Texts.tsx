import { useState } from 'react';
import { Codes, Words } from '../answers/Words';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { useTry } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Table } from '../parts/Table';
import { Empty, Labelled, Skeleton, TextArea } from '../parts/Text';
import { chance } from './Under';

const mostTexts = 500;

/** Answers that nobody gave: typed or pasted, a line each, with the categories they would get. */
export default function Texts() {
  const [typed, setTyped] = useKept('texts tried', '');
  const [asked, setAsked] = useState<string[]>(() => lines(typed));
  const all = lines(typed);
  const found = useTry('texts/try', { texts: asked }, { enabled: asked.length > 0 });
  const rows = (found.now?.texts ?? []).map((t, i) => ({ ...t, place: i }));
  return (
    <div className="max-w-300 pr-2">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          setAsked(all.slice(0, mostTexts));
        }}
      >
        <Labelled name="Answers to try, a line each; of the respondent nothing is known">
          <TextArea
            rows={5}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter' && e.ctrlKey) e.currentTarget.form?.requestSubmit();
            }}
          />
        </Labelled>
        <p className="flex items-baseline gap-2.5 py-2">
          <Button type="submit" look="go" disabled={!all.length}>
            Code {all.length > 1 ? `${count(Math.min(all.length, mostTexts))} answers` : 'it'}
          </Button>
          {all.length > mostTexts && (
            <span className="text-soft">
              The first {count(mostTexts)}; the other {many(all.length - mostTexts, 'line')} wait.
            </span>
          )}
        </p>
      </form>
      {found.error && <Failed error={found.error} again={() => found.refetch()} />}
      {asked.length > 0 && !found.now && !found.error && <Skeleton lines={4} />}
      {asked.length === 0 && (
        <Empty>See what the rules and what was learned make of an answer before anybody gives it.</Empty>
      )}
      {asked.length > 0 && rows.length > 0 && (
        <Table
          label="Answers that were tried"
          rows={rows}
          id={(r) => String(r.place)}
          columns={[
            {
              key: 'text',
              name: 'answer',
              head: true,
              className: 'w-1/2 font-serif text-lg break-words',
              cell: (r) => (
                <span data-part="said">
                  <Words answer={r} />
                </span>
              ),
            },
            {
              key: 'codes',
              name: 'by the rules',
              cell: (r) =>
                r.codes.length ? (
                  <Codes codes={r.codes} />
                ) : (
                  <span className="text-soft">{r.status === 'answered' ? 'none' : r.status}</span>
                ),
            },
            {
              key: 'likely',
              name: 'likely besides',
              told: 'What was learned from coded answers, if no rule had caught it',
              cell: (r) =>
                r.status === 'answered' ? r.likely.map((l) => `${l.name} ${chance(l.chance)}`).join(', ') : '',
            },
          ]}
        />
      )}
    </div>
  );
}

const lines = (text: string) =>
  text
    .split('\n')
    .map((l) => l.trim())
    .filter(Boolean);
