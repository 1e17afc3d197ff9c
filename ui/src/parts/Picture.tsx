import { type ReactNode, useState } from 'react';
import { useAddress, writeConditions } from '../lib/address';
import { useDesk } from '../lib/edits';
import { dated, many } from '../lib/format';
import { useFrame } from '../lib/queries';
import { say } from '../lib/say';
import { Button } from './Button';
import { useRoving } from './roving';
import { savePNG, saveSVG } from './save';

/** A drawing with the ways to take it along. */
export function Picture({ name, children, more }: { name: string; children: ReactNode; more?: ReactNode }) {
  const stops = useRoving<HTMLElement>({ across: true });
  const [failed, setFailed] = useState('');
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
      await how([...stops.ref.current!.querySelectorAll<SVGSVGElement>('svg[data-drawing]')], caption());
    } catch (e) {
      setFailed(`The picture was not saved: ${(e as Error).message}`);
    }
  };
  return (
    <figure {...stops} data-part="picture" className="grid min-h-0 gap-1">
      {children}
      <figcaption className="text-sm text-soft">
        download:{' '}
        <Button look="plain" onClick={save(saveSVG)}>
          SVG
        </Button>{' '}
        <Button look="plain" onClick={save(savePNG)}>
          PNG
        </Button>{' '}
        {more}
        {failed && <span className="text-clay">{failed}</span>}
      </figcaption>
    </figure>
  );
}
