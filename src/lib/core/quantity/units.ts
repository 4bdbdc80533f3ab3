/** A unit as people read it: pieces are counted in "pcs", whatever the item is counted by is its own word. */
export const unitWord = (unit: string) => (unit === 'each' ? 'pcs' : unit);
