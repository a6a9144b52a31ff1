/** A number with so many decimals. */
export function figure(value: number, decimals = 3): string {
  const text = value.toFixed(decimals);
  // nothing is less than nothing
  return (Number(text) === 0 ? text.replace('-', '') : text).replace('-', '\u2212');
}

/** Seconds as h:mm:ss or m:ss. */
export function clock(seconds: number): string {
  const s = Math.round(seconds);
  const two = (n: number): string => String(n).padStart(2, '0');
  return s >= 3600
    ? `${Math.floor(s / 3600)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`
    : `${Math.floor(s / 60)}:${two(s % 60)}`;
}

/** How long ago a moment was, in words; both in ms since 1970. */
export function ago(then: number, now: number): string {
  const minutes = Math.max(0, Math.round((now - then) / 60_000));
  if (minutes < 1) return 'just now';
  if (minutes < 60) return `${minutes} min ago`;
  const hours = Math.round(minutes / 60);
  return hours < 48 ? `${hours} h ago` : `${Math.round(hours / 24)} days ago`;
}
