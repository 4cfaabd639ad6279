import type { Level } from "../wire";

/** One tile of the board. */
export interface Tile {
  readonly gauge: string;
  update(level: Level): void;
}
