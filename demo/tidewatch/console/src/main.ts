import { Board } from "./board";
import { Feed } from "./wire";

new Board(new Feed("/levels")).show();
