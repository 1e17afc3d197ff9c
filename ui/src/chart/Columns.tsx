import type { Chart } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count } from '../lib/format';
import { itemAt } from '../lib/required';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Popover } from '../parts/Popover';
import { useRoving } from '../parts/roving';
import { Caption } from '../parts/Text';
import { ColumnSets } from './ColumnSets';

const deepest = 3;

/** The segments that columns are made of, side by side and nested, as pieces that are changed and taken away. */
export function Columns({ c, by }: { c: Chart; by: (nests: string[][]) => void }) {
  const { question } = useDesk();
  const nests = c.nests.map((n) => n.variables);
  const short = (name: string) => question.study.columns.find((s) => s.name === name)?.label ?? name;
  const offers = (taken: string[]) =>
    c.segments
      .filter((s) => !taken.includes(s.name))
      .map((s) => ({ value: s.name, words: `${short(s.name)} (${count(s.values)})` }));
  const put = (at: number, ...nest: string[][]) => by([...nests.slice(0, at), ...nest, ...nests.slice(at + 1)]);
  const alone = nests.length === 1 && itemAt(nests, 0).length === 1;
  const stops = useRoving<HTMLDivElement>({ across: true });
  return (
    <div {...stops} className="flex flex-wrap items-center gap-x-2 gap-y-1.5" role="group" aria-label="Columns">
      <span className="text-sm text-soft">by</span>
      {alone ? (
        <Combobox stop label="by" value={itemAt(itemAt(nests, 0), 0)} change={(v) => by([[v]])} options={offers([])} />
      ) : (
        nests.map((nest, at) => (
          <Popover
            stop
            key={nest.join(' in ')}
            look="normal"
            label="This segment"
            words={`${nest.map(short).join(' › ')} ▾`}
          >
            {(close) => (
              <Piece
                nest={nest}
                short={short}
                offers={offers(nest)}
                put={(to) => {
                  close();
                  put(at, ...(to.length ? [to] : []));
                }}
                move={
                  at > 0
                    ? () => {
                        close();
                        const next = [...nests];
                        [next[at - 1], next[at]] = [nest, itemAt(next, at - 1)];
                        by(next);
                      }
                    : undefined
                }
              />
            )}
          </Popover>
        ))
      )}
      {alone && (
        <Combobox
          stop
          label="nest in it"
          value=""
          placeholder="nest in it…"
          change={(v) => by([[...itemAt(nests, 0), v]])}
          options={offers(itemAt(nests, 0))}
        />
      )}
      <Combobox
        stop
        label="segment beside"
        value=""
        placeholder={nests.length ? 'beside it…' : 'a segment…'}
        change={(v) => by([...nests, [v]])}
        options={offers(nests.filter((n) => n.length === 1).map((n) => itemAt(n, 0)))}
      />
      {nests.length > 0 && (
        <Button look="plain" data-stop="" onClick={() => by([])}>
          total only
        </Button>
      )}
      <ColumnSets nests={nests} by={by} short={short} />
    </div>
  );
}

type PieceProps = {
  nest: string[];
  short: (name: string) => string;
  offers: { value: string; words: string }[];
  put: (nest: string[]) => void;
  move?: () => void;
};

/** One segment of the columns, with those nested in it. */
function Piece({ nest, short, offers, put, move }: PieceProps) {
  return (
    <div className="grid gap-2">
      <div>
        <Caption>From the outside in</Caption>
        <ol className="grid gap-1">
          {nest.map((name) => (
            <li key={name} className="flex items-baseline justify-between gap-6">
              {short(name)}
              <Button look="plain" onClick={() => put(nest.filter((n) => n !== name))}>
                take out<span className="sr-only"> {short(name)}</span>
              </Button>
            </li>
          ))}
        </ol>
      </div>
      <div className="flex flex-wrap gap-3">
        {nest.length < deepest && (
          <Combobox
            label="nest in it"
            value=""
            placeholder="nest in it…"
            change={(v) => put([...nest, v])}
            options={offers}
          />
        )}
        {nest.length > 1 && (
          <Button look="plain" onClick={() => put([...nest].reverse())}>
            turn inside out
          </Button>
        )}
        {move && (
          <Button look="plain" onClick={move}>
            move to the left
          </Button>
        )}
      </div>
    </div>
  );
}
