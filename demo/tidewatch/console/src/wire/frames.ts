/** A level as the console sees it. */
export interface Level {
  gauge: string;
  metres: number;
  seconds: number;
}

export function unpack(data: string): Level {
  const [gauge, metres, seconds] = data.split(";");
  return { gauge, metres: Number(metres), seconds: Number(seconds) };
}
