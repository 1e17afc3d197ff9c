import rules from '../../../docs/rules.md?raw';
import { Markdown } from '../parts/Markdown';

/** The rule language with its examples, as docs/ has it, to be read beside the editor. */
export default function Reference() {
  return (
    <section
      aria-label="How rules are written" // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      className="mt-2 max-h-[38vh] overflow-y-auto border border-line bg-sheet px-3 py-1"
    >
      <Markdown text={rules} />
    </section>
  );
}
