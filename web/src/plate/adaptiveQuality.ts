/** Slower frames than this, ms, are drawn with less, quicker ones with more. */
const SLOW = 60;
const QUICK = 12;
/** So slow that the view cannot be turned: it goes as far down as it can at once. */
const STUCK = 250;

const DETAIL = { least: 0.4, most: 3 };
const LEAST_PIXELS = 0.5;

/** How much a graphics card is given to draw, by how long its frames take.
 *
 * First detail is drawn nearer or farther; a card that is still too slow has fewer pixels to fill, but only while the
 * view moves. What was taken last is given back first.
 */
export class AdaptiveQuality {
  /** Levels of detail reach so many times as far. */
  detail = 1.6;
  /** Share of the pixels along each side while the view moves. */
  pixels = 1;

  frame(ms: number) {
    if (ms > STUCK) {
      this.detail = Math.min(this.detail, DETAIL.least);
      this.pixels = LEAST_PIXELS;
    } else if (ms > SLOW) {
      if (this.detail > DETAIL.least) this.detail = Math.max(DETAIL.least, this.detail * 0.85);
      else this.pixels = Math.max(LEAST_PIXELS, this.pixels * 0.85);
    } else if (ms < QUICK) {
      if (this.pixels < 1) this.pixels = Math.min(1, this.pixels / 0.85);
      else this.detail = Math.min(DETAIL.most, this.detail * 1.05);
    }
  }
}
