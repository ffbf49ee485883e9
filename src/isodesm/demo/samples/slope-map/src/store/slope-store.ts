import { Slope } from '@model/index';

/** The slopes of the map, and which one is picked. */
export class SlopeStore {
  private readonly slopes = new Map<string, Slope>();
  private picked = '';

  add(slope: Slope): void {
    this.slopes.set(slope.code, slope);
  }

  find(code: string): Slope | undefined {
    return this.slopes.get(code);
  }

  all(): Slope[] {
    return [...this.slopes.values()];
  }

  pick(code: string): void {
    this.picked = code;
    document.title = `slope ${code}`;
  }

  current(): Slope | undefined {
    return this.find(this.picked);
  }
}

export const slopeStore = new SlopeStore();
