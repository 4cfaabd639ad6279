import type { Level } from "../wire";

/** The levels of one gauge over a day. */
export class LevelChart {
  private levels: Level[] = [];

  constructor(readonly gauge: string) {}

  update(level: Level): void {
    this.levels.push(level);
  }
}
