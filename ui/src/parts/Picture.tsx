import { type ReactNode, useState } from 'react';
import { useAddress, writeConditions } from '../lib/address';
import { say } from '../lib/conditions';
import { useDesk } from '../lib/edits';
import { dated, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { useFrame } from '../lib/queries';
import { required } from '../lib/required';
import { Button } from './Button';
import { NumberField } from './NumberField';
import { Popover } from './Popover';
import { useRoving } from './roving';
import { optionsOf, Select } from './Select';
import { type Size, savePNG, saveSVG } from './save';
import { Labelled } from './Text';

/** A drawing with the ways to take it along. */
export function Picture({ name, children, more }: { name: string; children: ReactNode; more?: ReactNode }) {
  const stops = useRoving<HTMLElement>({ across: true });
  const [failed, setFailed] = useState('');
  const [size, setSize] = useKept<Size>('size of pictures', { width: 0, ground: 'white' });
  const { question } = useDesk();
  const { focus } = useAddress();
  const frame = useFrame(writeConditions(focus));
  const caption = () => {
    const within = focus.map((c) => say(c, frame.data?.categories)).join(' · ');
    return {
      title: name,
      lines: [
        question.name,
        `${question.study.name} · ${many(question.focus, 'answer')}${within ? ` (${within})` : ''} · ${dated(new Date().toISOString().slice(0, 10))}`,
      ],
    };
  };
  const save = (how: typeof saveSVG) => async () => {
    try {
      setFailed('');
      await how([...required(stops.ref.current).querySelectorAll<SVGSVGElement>('svg[data-drawing]')], caption(), size);
    } catch (e) {
      setFailed(`The picture was not saved: ${(e as Error).message}`);
    }
  };
  return (
    <figure {...stops} data-part="picture" className="grid min-h-0 gap-1">
      {children}
      <figcaption className="text-sm text-soft">
        download:{' '}
        <Popover words="picture ▾" label="The picture as a file">
          {(close) => (
            <div className="grid gap-2.5">
              <Sizes size={size} set={setSize} />
              <p className="flex gap-2.5">
                <Button look="go" onClick={() => save(saveSVG)().then(close)}>
                  SVG
                </Button>
                <Button look="go" onClick={() => save(savePNG)().then(close)}>
                  PNG
                </Button>
              </p>
            </div>
          )}
        </Popover>{' '}
        {more}
        {failed && <span className="text-clay">{failed}</span>}
      </figcaption>
    </figure>
  );
}

/** Widths that are asked for often, in pixels; paper at 300 to the inch. */
const widths = [
  { value: '0', words: 'twice as shown' },
  { value: '1920', words: 'slide, 1920 px' },
  { value: '2480', words: 'A4 upright, 2480 px' },
  { value: '3508', words: 'A4 across, 3508 px' },
  { value: '1240', words: 'half of A4, 1240 px' },
] as const;

const grounds = { white: 'white', paper: 'warm paper', none: 'nothing' } as const;

/** How large pictures are taken along, and on what. */
function Sizes({ size, set }: { size: Size; set: (to: Size) => void }) {
  const own = { value: String(size.width), words: `${size.width} px` };
  const known = widths.some((w) => w.value === own.value);
  return (
    <div className="grid gap-2.5">
      <Labelled name="width">
        <Select
          label="width"
          value={own.value}
          options={[...widths, ...(known ? [] : [own])]}
          change={(v) => set({ ...size, width: Number(v) })}
        />
      </Labelled>
      <NumberField
        label="or so many pixels"
        value={size.width}
        least={0}
        most={10_000}
        change={(width) => set({ ...size, width: width && Math.max(200, Math.round(width)) })}
      />
      <Labelled name="on">
        <Select
          label="on"
          value={size.ground}
          options={optionsOf(grounds)}
          change={(ground) => set({ ...size, ground })}
        />
      </Labelled>
    </div>
  );
}
