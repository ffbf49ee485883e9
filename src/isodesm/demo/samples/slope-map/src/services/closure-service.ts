import { Closure, UnknownSlopeError } from '../model';
import { ClosureClient } from './closure-client';
import { slopeStore } from '../store/slope-store';

/** Says which slopes are closed right now. */
export class ClosureService {
  private readonly client = new ClosureClient();
  private known: Closure[] = [];

  async refresh(): Promise<number> {
    this.known = await this.client.closures();
    localStorage.setItem('closures', JSON.stringify(this.known));
    return this.known.length;
  }

  closed(code: string): Closure | undefined {
    if (slopeStore.find(code) === undefined) {
      throw new UnknownSlopeError(code);
    }
    const now = new Date();
    return this.known.find(each => each.slopeCode === code && !each.isOver(now));
  }
}
