/**
 * Fill the outline of a mesh: every triangle as seen in the picture plane, all turned the same way round, since
 * front and back of a closed body would otherwise cancel each other out.
 */
export function fillSilhouette(context: CanvasRenderingContext2D, index: ArrayLike<number>, x: (vertex: number) => number, y: (vertex: number) => number, stride = 1) {
  context.beginPath();
  for (let k = 0; k + 2 < index.length; k += 3 * stride) {
    const ax = x(index[k]), ay = y(index[k]);
    const bx = x(index[k + 1]), by = y(index[k + 1]);
    const cx = x(index[k + 2]), cy = y(index[k + 2]);
    const turned = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay) < 0;
    context.moveTo(ax, ay);
    context.lineTo(turned ? cx : bx, turned ? cy : by);
    context.lineTo(turned ? bx : cx, turned ? by : cy);
    context.closePath();
  }
  context.fill();
}
