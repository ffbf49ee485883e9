import { MapViewComponent } from './components/map-view.component';
import { SlopeDetailComponent } from './components/slope-detail.component';
import { SlopeListComponent } from './components/slope-list.component';
import { SlopeStore } from './store/slope-store';

/** Puts the page together. */
export function start(): void {
  const list = new SlopeListComponent(new SlopeStore());
  const detail = new SlopeDetailComponent(new SlopeStore(), { nothing: 'no slope picked' });
  new MapViewComponent().draw();
  list.choose('H1');
  void detail.title();
}
