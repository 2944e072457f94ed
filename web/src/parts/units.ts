/** A length as people write it, for read-outs while drawing. Saved figures are printed by the server. */
export function lengthText(mm: number, metric: boolean): string {
  if (metric) return Math.abs(mm) >= 1000 ? `${(mm / 1000).toFixed(2)} m` : `${mm.toFixed(0)} mm`;
  const inches = Math.round((Math.abs(mm) / 25.4) * 2) / 2;
  const feet = Math.floor(inches / 12);
  const rest = inches - feet * 12;
  const half = rest % 1 ? (rest > 1 ? ` 1/2` : "1/2") : "";
  const whole = rest >= 1 || !half ? Math.floor(rest) : "";
  return feet ? `${feet}' ${whole}${half}"` : `${whole}${half} in`;
}
