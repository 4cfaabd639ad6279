export * from "./level_chart";
