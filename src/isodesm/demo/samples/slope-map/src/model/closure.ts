/** A slope that is shut, until a moment or until further notice. */
export class Closure {
  constructor(readonly slopeCode: string, readonly reason: string, readonly until?: Date) {}

  isOver(now: Date): boolean {
    return this.until !== undefined && this.until.getTime() <= now.getTime();
  }
}

export class UnknownSlopeError extends Error {
  constructor(code: string) {
    super(`no slope ${code} on this map`);
  }
}
