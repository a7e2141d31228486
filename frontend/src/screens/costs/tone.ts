/** The ochre of one of so many parts, light and dark in turn, so that those beside each other are told apart. */
export function tone(place: number, of: number): { background: string; color: string } {
  const light = place % 2 === 0;
  const step = Math.floor(place / 2) / Math.max(1, Math.ceil(of / 2) - 1);
  const lightness = light ? 0.72 + 0.2 * step : 0.52 - 0.24 * step;
  return {
    background: `oklch(${lightness} ${light ? 0.13 - 0.08 * step : 0.09 - 0.05 * step} 76)`,
    color: light ? "#2a2118" : "#fffdf6",
  };
}
