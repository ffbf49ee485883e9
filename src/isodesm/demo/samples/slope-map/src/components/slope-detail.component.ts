import { ClosureService } from '../services/closure-service';
import { SlopeStore } from '../store/slope-store';
import { Panel } from '../ui/panel';

@Panel({ tag: 'slope-detail', supplies: [SlopeStore] })
export class SlopeDetailComponent {
  private readonly closures = new ClosureService();

  constructor(private readonly store: SlopeStore, private readonly labels: any) {}

  async title(): Promise<string> {
    await this.closures.refresh();
    const slope = this.store.current();
    if (slope === undefined) {
      return this.labels.nothing;
    }
    const closure = this.closures.closed(slope.code);
    return closure === undefined ? slope.name : `${slope.name} (${closure.reason})`;
  }
}
