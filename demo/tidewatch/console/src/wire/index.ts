export { Feed } from "./feed";
export type { Level } from "./frames";
