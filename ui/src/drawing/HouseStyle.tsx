import { useState } from 'react';
import { required } from '../lib/required';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Dialog, Ends } from '../parts/Dialog';
import { NumberField } from '../parts/NumberField';
import { optionsOf, Select } from '../parts/Select';
import { Labelled } from '../parts/Text';
import { palette } from './palette';
import { type Style, usual } from './style';
import { useStyle } from './useStyle';

/** The button that sets how pictures look in all studies. */
export function HouseStyle({ stop }: { stop?: boolean }) {
  const { style, set, asked } = useStyle();
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button look="plain" data-stop={stop ? '' : undefined} disabled={!asked.data} onClick={() => setOpen(true)}>
        House style…
      </Button>
      {open && <Setting style={style} set={set} close={() => setOpen(false)} />}
    </>
  );
}

const faces = { sans: 'plain (Source Sans)', serif: 'book (Source Serif)' } as const;

/** How bright a colour is, 0 to 1, and its contrast to white (WCAG 2.2). */
function contrastToWhite(colour: string) {
  const part = (k: number) => {
    const x = Number.parseInt(colour.slice(k, k + 2), 16) / 255;
    return x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;
  };
  return 1.05 / (0.2126 * part(1) + 0.7152 * part(3) + 0.0722 * part(5) + 0.05);
}

function Setting({ style, set, close }: { style: Style; set: (to: Style) => void; close: () => void }) {
  const [to, setTo] = useState(style);
  const colours = Array.from({ length: 8 }, (_, i) => to.colours?.[i] ?? required(palette[`c${i}`]));
  const put = (change: Partial<Style>) => setTo({ ...to, ...change });
  const faint = colours.filter((c) => contrastToWhite(c) < 3).length;
  return (
    <Dialog title="House style" close={close}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          close();
          set(to);
        }}
      >
        <p className="text-soft">
          How pictures look, in all studies and in the files of reports. What is frozen stays as it is.
        </p>
        <fieldset className="grid gap-1">
          <legend className="pb-1 text-sm text-soft">Colours, in their order</legend>
          <div className="flex flex-wrap gap-2">
            {colours.map((c, i) => (
              <input
                key={i}
                type="color"
                aria-label={`Colour ${i + 1}`}
                value={c}
                className="h-8 w-11 cursor-pointer rounded-sm border border-edge bg-sheet p-0.5"
                onChange={(e) => put({ colours: colours.map((x, j) => (j === i ? e.target.value : x)) })}
              />
            ))}
          </div>
          {faint > 0 && (
            <p className="text-sm text-clay">
              {faint === 1 ? 'One of them is' : `${faint} of them are`} hard to see on white (contrast under 3 to 1).
            </p>
          )}
        </fieldset>
        <div className="flex flex-wrap items-end gap-x-5 gap-y-2">
          <Labelled name="face">
            <Select label="face" value={to.face} options={optionsOf(faces)} change={(face) => put({ face })} />
          </Labelled>
          <NumberField
            label="size of text, pixels"
            value={to.size}
            least={9}
            most={20}
            change={(size) => put({ size })}
          />
          <NumberField
            label="decimals of percentages"
            value={to.decimals}
            least={0}
            most={3}
            change={(decimals) => put({ decimals })}
          />
        </div>
        <label>
          <Checkbox checked={to.figures} change={(figures) => put({ figures })} /> figures at bars and lines
        </label>
        <label>
          <Checkbox checked={to.codes} change={(codes) => put({ codes })} /> short codes before the names of categories
        </label>
        <p>
          <Button look="plain" onClick={() => setTo(usual)}>
            as it was at first
          </Button>
        </p>
        <Ends go="Set it" ready close={close} />
      </form>
    </Dialog>
  );
}
