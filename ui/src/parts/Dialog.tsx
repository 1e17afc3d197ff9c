import { AlertDialog as Alert, Dialog as Radix } from 'radix-ui';
import { type ReactNode, useRef, useState } from 'react';
import { useFocusBack } from '../lib/focus';
import { Button } from './Button';
import { Over } from './depth';

const over = 'fixed inset-0 z-30 bg-[#23261f55]';
const box =
  'fixed top-[10vh] left-1/2 z-30 max-h-[82vh] w-[min(39rem,94vw)] -translate-x-1/2 overflow-auto rounded-(--radius) border border-edge bg-sheet px-6.5 py-5.5 text-ink shadow-dialog outline-none';

type Props = { title: string; close: () => void; wide?: boolean; children: ReactNode };

/**
 * A dialog over the view. Esc, or a press that begins and ends beside it, closes it; text that was typed into it is asked after
 * first. The focus goes back to where it was.
 */
export function Dialog({ title, close, wide, children }: Props) {
  const typed = useRef(new Set<HTMLElement>()); // fields that were typed into
  const back = useFocusBack();
  const [asking, setAsking] = useState(false);
  const begunBeside = useRef(false);
  // A form in it that was kept is gone, with its fields.
  const leave = () => ([...typed.current].some((field) => field.isConnected) ? setAsking(true) : close());
  return (
    <Over>
      <Radix.Root open onOpenChange={(open) => !open && leave()}>
        <Radix.Portal>
          <Radix.Overlay
            className={over}
            onPointerDown={() => {
              begunBeside.current = true;
            }}
            onClick={() => {
              if (begunBeside.current) leave();
              begunBeside.current = false;
            }}
          />
          <Radix.Content
            className={`${box} ${wide ? 'w-[min(62rem,96vw)]' : ''}`}
            aria-describedby={undefined}
            onCloseAutoFocus={back}
            onInput={(e) => {
              const t = e.target as HTMLElement;
              if (t.matches('input:not([role=combobox]), textarea')) typed.current.add(t);
            }}
            onPointerDown={() => {
              begunBeside.current = false;
            }}
            onPointerDownOutside={(e) => e.preventDefault()}
            onInteractOutside={(e) => e.preventDefault()}
          >
            <Radix.Title className="pb-2.5 font-serif text-xl font-semibold">{title}</Radix.Title>
            {children}
            {asking && (
              <Confirm
                title="Close without keeping what you typed?"
                go="Discard it"
                stay="Go on typing"
                act={close}
                close={() => setAsking(false)}
              />
            )}
          </Radix.Content>
        </Radix.Portal>
      </Radix.Root>
    </Over>
  );
}

type ConfirmProps = {
  title: string;
  /** The words on the button that does it. */
  go: string;
  stay?: string;
  act: () => void;
  close: () => void;
  children?: ReactNode;
};

/** Asks before something is done; the safe answer has the focus. */
export function Confirm({ title, go, stay = 'Cancel', act, close, children }: ConfirmProps) {
  const back = useFocusBack();
  return (
    <Over>
      <Alert.Root open onOpenChange={(open) => !open && close()}>
        <Alert.Portal>
          <Alert.Overlay className={over} />
          <Alert.Content className={box} onCloseAutoFocus={back}>
            <Alert.Title className="pb-2.5 font-serif text-xl font-semibold">{title}</Alert.Title>
            <Alert.Description asChild>
              <div>{children}</div>
            </Alert.Description>
            <p className="flex items-baseline gap-2.5 pt-3">
              <Alert.Action asChild>
                <Button look="go" onClick={act}>
                  {go}
                </Button>
              </Alert.Action>
              <Alert.Cancel asChild>
                <Button>{stay}</Button>
              </Alert.Cancel>
            </p>
          </Alert.Content>
        </Alert.Portal>
      </Alert.Root>
    </Over>
  );
}

type EndsProps = { go: string; ready: boolean; close: () => void; children?: ReactNode };

/** The two ends of a dialog's form: doing it, or cancelling. */
export function Ends({ go, ready, close, children }: EndsProps) {
  return (
    <p className="flex items-baseline gap-2.5 pt-2">
      <Button type="submit" look="go" disabled={!ready}>
        {go}
      </Button>
      <Button onClick={close}>Cancel</Button>
      {children}
    </p>
  );
}
