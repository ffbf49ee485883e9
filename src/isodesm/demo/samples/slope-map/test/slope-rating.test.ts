import { Exposure } from '../src/model';
import { SlopeRating } from '../src/services/slope-rating';

function check(wanted: string, degrees: number, exposure: Exposure): void {
  const found = new SlopeRating().rate({ code: 'T', name: 'test', degrees, exposure });
  if (found !== wanted) {
    throw new Error(`${degrees} degrees: wanted ${wanted}, found ${found}`);
  }
}

check('expert', 36, Exposure.South);
check('demanding', 26, Exposure.North);
check('easy', 26, Exposure.South);
console.log('3 checks passed');
