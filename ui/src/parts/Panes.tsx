import { type ReactNode, useEffect, useRef, useState } from 'react';
import { Group, Panel, type PanelImperativeHandle, Separator } from 'react-resizable-panels';
import { Button } from './Button';

type Side = {
  id: string;
  /** Its name, for its edge and the button that brings it back. */
  name: string;
  first?: boolean;
  /** Sizes with their unit, as "10.5rem". */
  size: string;
  least: string;
  most: string;
  children: ReactNode;
};

type Props = {
  direction: 'horizontal' | 'vertical';
  side: Side;
  /** There is nothing at the side now; what is in the middle stays as it is. */
  none?: boolean;
  children: ReactNode;
};

const shutSize = '1.75rem';
const folds = 'fold pane';

/** Folds a pane away, or brings it back. */
export const foldPane = (id: string) => window.dispatchEvent(new CustomEvent(folds, { detail: id }));

/** A pane at the side of what is in the middle: its edge is moved by mouse or arrows; its size is kept. */
export function Panes({ direction, side, none, children }: Props) {
  const ref = useRef<PanelImperativeHandle>(null);
  const name = `size ${side.id} ${direction}`;
  const [start] = useState(() => localStorage.getItem(name));
  const [shut, setShut] = useState(start === 'shut');
  useEffect(() => {
    const onFold = (e: Event) => {
      if ((e as CustomEvent<string>).detail !== side.id) return;
      if (ref.current?.isCollapsed()) ref.current.expand();
      else ref.current?.collapse();
    };
    window.addEventListener(folds, onFold);
    return () => window.removeEventListener(folds, onFold);
  }, [side.id]);
  const pane = (
    <Panel
      key="side"
      id={side.id}
      panelRef={ref}
      defaultSize={start === 'shut' ? shutSize : (start ?? side.size)}
      minSize={side.least}
      maxSize={side.most}
      collapsible
      collapsedSize={shutSize}
      groupResizeBehavior="preserve-pixel-size"
      className="size-full"
      onResize={(size) => {
        const folded = ref.current?.isCollapsed() ?? false;
        setShut(folded);
        localStorage.setItem(name, folded ? 'shut' : `${Math.round(size.inPixels)}px`);
      }}
    >
      {shut ? (
        <Button
          look="bare"
          className={`flex size-full items-center justify-start gap-2 bg-paper px-1 py-3 text-sm text-soft
            hover:text-ink ${direction === 'horizontal' ? '[writing-mode:vertical-rl]' : ''}`}
          onClick={() => ref.current?.expand()}
        >
          Show {side.name}
        </Button>
      ) : (
        side.children
      )}
    </Panel>
  );
  const edge = (
    <Separator
      key="edge"
      aria-label={`Size of ${side.name}`}
      className={`bg-line outline-offset-0 hover:bg-moss focus-visible:bg-moss forced-colors:bg-[CanvasText]
        ${direction === 'horizontal' ? 'w-px' : 'h-px'}`}
    />
  );
  const middle = (
    <Panel
      key="middle"
      id={`${side.id}-middle`}
      minSize={direction === 'horizontal' ? '16rem' : '8rem'}
      className="size-full"
    >
      {children}
    </Panel>
  );
  return (
    <Group orientation={direction} className="size-full">
      {none ? [middle] : side.first ? [pane, edge, middle] : [middle, edge, pane]}
    </Group>
  );
}
