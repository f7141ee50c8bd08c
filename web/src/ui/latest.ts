/** Keep something under a name as the latest of a map, which holds so many at most. */
export function keepLatest<Name, Thing>(
  kept: Map<Name, Thing>,
  name: Name,
  thing: Thing,
  most: number,
) {
  kept.delete(name);
  kept.set(name, thing);
  for (const oldest of kept.keys()) if (kept.size > most) kept.delete(oldest);
}
