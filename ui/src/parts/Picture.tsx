import { type ReactNode, useRef, useState } from 'react';
import { savePNG, saveSVG } from './save';

/** A drawing with the ways to take it along. */
export function Picture({ name, children, more }: { name: string; children: ReactNode; more?: ReactNode }) {
  const ref = useRef<HTMLElement>(null);
  const [failed, setFailed] = useState('');
  const save = (how: typeof saveSVG) => async () => {
    try {
      setFailed('');
      await how([...ref.current!.querySelectorAll<SVGSVGElement>('svg.timeline, svg.drawing')], name);
    } catch (e) {
      setFailed(`The picture was not saved: ${(e as Error).message}`);
    }
  };
  return (
    <figure className="picture" ref={ref}>
      {children}
      <figcaption className="soft small">
        out:{' '}
        <button type="button" className="plain" onClick={save(saveSVG)}>
          SVG
        </button>{' '}
        <button type="button" className="plain" onClick={save(savePNG)}>
          PNG
        </button>{' '}
        {more}
        {failed && <span className="bad">{failed}</span>}
      </figcaption>
    </figure>
  );
}
