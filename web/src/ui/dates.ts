const DAY = 86_400_000;
/** An hour at which work of a day is usually done. */
const CLOSING = "16:00";

const two = (n: number) => String(n).padStart(2, "0");

/** A moment as a field for date and time takes it. */
export function asField(at: Date): string {
  const day = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
  return `${day}T${two(at.getHours())}:${two(at.getMinutes())}`;
}

/** The end of work some days on, as a field takes it. */
export const inDays = (days: number) =>
  `${asField(new Date(Date.now() + days * DAY)).slice(0, 10)}T${CLOSING}`;
