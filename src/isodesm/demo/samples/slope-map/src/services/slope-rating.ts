import { Exposure, Slope } from '../model';

/** How demanding a slope is; needs nothing but the slope. */
export class SlopeRating {
  private readonly steep = 35;

  rate(slope: Slope): 'easy' | 'demanding' | 'expert' {
    if (slope.degrees >= this.steep) {
      return 'expert';
    }
    const shaded = slope.exposure === Exposure.North || slope.exposure === Exposure.East;
    return slope.degrees >= 28 || (shaded && slope.degrees >= 25) ? 'demanding' : 'easy';
  }
}
