import type { TrialRow } from './conclude.js';

/** Joins the rows of names that stand for one variable, under its declared name: they may differ in a prefix. */
export function byVariable<Row extends TrialRow>(rows: readonly Row[]): Row[] {
  const found = new Map<string, Row>();
  for (const row of rows) {
    const name = row.variable ?? row.name;
    const known = found.get(name);
    found.set(name, known ? joined(known, row) : { ...row, name });
  }
  return [...found.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
}

function joined<Row extends TrialRow>(one: Row, other: Row): Row {
  return {
    ...one,
    setIn: [...new Set([...one.setIn, ...other.setIn])],
    readBy: [...new Set([...one.readBy, ...other.readBy])],
    arrivesIn: [...one.arrivesIn, ...other.arrivesIn],
    isUnmarked: one.isUnmarked || other.isUnmarked,
  };
}
