import { Slope } from '../model';
import { SlopeRating } from '../services/slope-rating';
import { SlopeStore } from '../store/slope-store';
import { VisitLog } from '../store/visit-log';
import { Panel } from '../ui/panel';

@Panel({ tag: 'slope-list', supplies: [SlopeStore] })
export class SlopeListComponent {
  private readonly rating = new SlopeRating();

  constructor(private readonly store: SlopeStore) {}

  rows(): string[] {
    return this.store.all().map(slope => this.row(slope));
  }

  choose(code: string): void {
    this.store.pick(code);
    VisitLog.instance.note(code);
  }

  private row(slope: Slope): string {
    return `${slope.name}: ${this.rating.rate(slope)}`;
  }
}
