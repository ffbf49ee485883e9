import { appendFileSync } from './files';

/** Keeps which slopes people looked at. */
export class VisitLog {
  private static shared: VisitLog | undefined;
  private visits = 0;

  static get instance(): VisitLog {
    return (VisitLog.shared ??= new VisitLog());
  }

  note(code: string): void {
    this.visits += 1;
    appendFileSync('visits.txt', `${Date.now()} ${code} ${this.visits}\n`);
  }
}
