import { Exposure, Slope } from '../model';
import { slopeStore } from '../store/slope-store';
import { Panel } from '../ui/panel';

/** The map itself; over the years it has also become the place where slopes are kept and judged. */
@Panel({ tag: 'map-view' })
export class MapViewComponent {
  private readonly slopes: Slope[] = [
    { code: 'H1', name: 'Hart Face', degrees: 38, exposure: Exposure.North },
    { code: 'H2', name: 'Hart Gully', degrees: 41, exposure: Exposure.East },
    { code: 'L1', name: 'Lyn Bowl', degrees: 29, exposure: Exposure.South },
    { code: 'L2', name: 'Lyn Ridge', degrees: 24, exposure: Exposure.West },
    { code: 'W1', name: 'Wether Flats', degrees: 12, exposure: Exposure.South },
  ];

  draw(): void {
    for (const slope of this.slopes) {
      slopeStore.add(slope);
      const box = document.createElement('div');
      box.textContent = slope.name;
      if (slope.degrees > 35 && slope.exposure !== Exposure.South) {
        box.className = 'danger';
      } else if (slope.degrees > 28) {
        box.className = 'care';
      }
      document.body.appendChild(box);
    }
    setTimeout(() => this.draw(), 60_000);
  }
}
