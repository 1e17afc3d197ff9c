import { Planned } from '../drawing/Planned';
import type { Style } from '../drawing/style';
import type { Section } from '../lib/api';
import { itemsOf } from '../paper/items';
import { Sheet } from '../paper/Sheet';

/** A part of a report as it reads. */
export function Still({ section, style }: { section: Section; style: Style }) {
  return (
    <Sheet
      items={itemsOf(section, style)}
      figure={({ name, plan }) => <Planned name={name} plan={plan} style={style} still />}
    />
  );
}
