export { Board } from "./board";
export type { Tile } from "./tile";
