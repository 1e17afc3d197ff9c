/**
 * A value that is there by how the program is made. Where it is missing, that is a fault of the program: it ends here, in words,
 * and not later with a wrong figure.
 */
export function required<T>(value: T): NonNullable<T> {
  if (value === undefined || value === null) throw new Error('A value is missing that must be there.');
  return value;
}

/** The entry of a list at a place that it has. */
export function itemAt<T>(list: ArrayLike<T>, place: number): T {
  if (!(place >= 0 && place < list.length)) throw new Error(`A list of ${list.length} has no entry ${place}.`);
  return list[place] as T;
}
