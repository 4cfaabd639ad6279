import { LevelChart } from "../charts";
import { Feed } from "../wire";
import { unpack } from "../wire/frames";
import type { Tile } from "./tile";

/** The board in the tower. */
export class Board {
  private tiles: Map<string, Tile> = new Map();

  constructor(private readonly feed: Feed) {}

  /** Shows a tile for each gauge. */
  show(): void {
    this.feed.listen((data: string) => {
      const level = unpack(data);
      const tile = this.tiles.get(level.gauge) ?? new LevelChart(level.gauge);
      this.tiles.set(level.gauge, tile);
      tile.update(level);
    });
  }
}
