import { useState } from 'react';
import { useAddress } from '../lib/address';
import { api, type SampleInfo, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { Failed } from '../parts/Asked';
import { Dialog, Ends } from '../parts/Dialog';
import { NumberField } from '../parts/NumberField';
import { Select } from '../parts/Select';
import { Labelled, TextField } from '../parts/Text';
import { useSamplesAgain } from './samples';

/** Half the width of the 95 % interval of a share about one half, of so many answers: the widest there is. */
const halfWidth = (n: number) => 1.959964 / (2 * Math.sqrt(n + 1.959964 ** 2));

/** Draws a sample. */
export function Drawing({ close }: { close: (made?: SampleInfo) => void }) {
  const { question } = useDesk();
  const { focus } = useAddress();
  const again = useSamplesAgain();
  const [name, setName] = useState(`Sample of ${new Date().toLocaleDateString('en-GB', { dateStyle: 'medium' })}`);
  const [size, setSize] = useState(200);
  const [seed, setSeed] = useState(1);
  const [by, setBy] = useState('');
  const [error, setError] = useState<Error>();
  const parts = question.variables.filter((v) => v.role === 'segment' || v.role === 'wave');
  const draw = async () => {
    try {
      const made = await take(
        api.POST('/api/v1/questions/{question}/samples', {
          params: { path: { question: question.id } },
          body: { name, size, seed, by: by || undefined, focus },
        }),
      );
      await again();
      close(made);
    } catch (e) {
      setError(e as Error);
    }
  };
  return (
    <Dialog title="Draw a sample" close={() => close()}>
      <form
        className="grid gap-2.5"
        onSubmit={(e) => {
          e.preventDefault();
          draw();
        }}
      >
        <Labelled name="Name">
          <TextField wide autoFocus value={name} maxLength={200} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <p className="flex flex-wrap items-baseline gap-2.5">
          <NumberField label="answers" value={size} least={1} most={20_000} change={setSize} />
          <NumberField label="seed" value={seed} least={0} change={setSeed} />
        </p>
        <p className="text-sm text-soft">
          A share found in {count(size)} answers is known to about ±{(100 * halfWidth(size)).toFixed(1)} points; one
          that {count(Math.round(size / 10))} of them tell of, to ±{(100 * halfWidth(size / 10)).toFixed(0)}. It is
          drawn at random from the {count(question.focus)} answers of the focus; the same seed draws the same.
        </p>
        <Labelled name="As many from each">
          <Select
            label="As many from each"
            value={by}
            change={setBy}
            options={[
              { value: '', words: 'no parts: each answer is as likely' },
              { value: '=', words: 'coded, and not coded' },
              ...parts.map((v) => ({ value: v.name, words: `${v.name} (${many(v.values.length, 'value')})` })),
            ]}
          />
        </Labelled>
        {by && (
          <p className="text-sm text-soft">
            What is drawn from a part stands for all of it: figures are weighted, and say the effective intervals.
          </p>
        )}
        {error && <Failed error={error} />}
        <Ends go="Draw it" ready={!!name.trim()} close={() => close()} />
      </form>
    </Dialog>
  );
}
