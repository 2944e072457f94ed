export const amps = (a: number) => (a < 0.9995 ? `${+(a * 1000).toFixed(0)} mA` : `${+a.toFixed(2)} A`);
