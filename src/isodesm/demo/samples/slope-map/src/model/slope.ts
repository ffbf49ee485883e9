export enum Exposure { North, East, South, West }

/** A slope as the map draws it: degrees of steepness, metres of height. */
export interface Slope {
  readonly code: string;
  readonly name: string;
  readonly degrees: number;
  readonly exposure: Exposure;
}
