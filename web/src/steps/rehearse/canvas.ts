/** A clean sheet of so many pixels on a canvas, and the inks of the theme; null where the browser has no pen. */
export function sheet(canvas: HTMLCanvasElement | null, width: number, height: number) {
  const pen = canvas?.getContext("2d");
  if (!canvas || !pen) return null;
  const ratio = devicePixelRatio || 1;
  canvas.width = width * ratio;
  canvas.height = height * ratio;
  pen.scale(ratio, ratio);
  pen.clearRect(0, 0, width, height);
  const style = getComputedStyle(document.documentElement);
  return { pen, ink: (name: string) => style.getPropertyValue(name) };
}
