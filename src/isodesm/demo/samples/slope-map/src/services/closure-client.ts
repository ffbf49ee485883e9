import { Closure } from '../model';

/** Closures as the closure desk publishes them. */
export class ClosureClient {
  constructor(private readonly base: string = 'https://closures.hollin.example') {}

  async closures(): Promise<Closure[]> {
    const answer = await fetch(`${this.base}/closures.json`);
    const rows = (await answer.json()) as { slope: string; reason: string }[];
    return rows.map(row => new Closure(row.slope, row.reason));
  }
}
