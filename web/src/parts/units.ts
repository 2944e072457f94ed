/** A length as people write it, for read-outs while drawing. Saved figures are printed by the server. */
export function lengthText(mm: number, metric: boolean): string {
  if (metric) return Math.abs(mm) >= 1000 ? `${(mm / 1000).toFixed(2)} m` : `${mm.toFixed(0)} mm`;
  const inches = Math.round((Math.abs(mm) / 25.4) * 2) / 2;
  const feet = Math.floor(inches / 12);
  const rest = inches - feet * 12;
  const whole = Math.floor(rest);
  if (rest % 1 === 0) return feet ? (whole ? `${feet}' ${whole}"` : `${feet} ft`) : `${whole} in`;
  return feet ? `${feet}' ${whole} 1/2"` : whole ? `${whole} 1/2 in` : "1/2 in";
}

/** A length for a field, in the unit it is typed in: to the millimetre, or to a hundredth of an inch. */
export const fieldLength = (mm: number, metric: boolean): string =>
  metric ? `${mm.toFixed(0)} mm` : `${+(mm / 25.4).toFixed(2)} in`;
