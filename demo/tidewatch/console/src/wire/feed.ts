/** What the gateway says, as it says it. */
export class Feed {
  constructor(private readonly address: string) {}

  listen(hear: (data: string) => void): void {
    new EventSource(this.address).onmessage = (event) => hear(event.data);
  }
}
