/** Answers wishes one after another: while one is under way only the newest waits, and the others are forgotten. */
export class Newest<W> {
  private waiting: W | undefined;
  private busy = false;

  constructor(private readonly answer: (wish: W) => Promise<void>) {}

  wish(wish: W): void {
    this.waiting = wish;
    if (!this.busy) void this.serve();
  }

  forget(): void {
    this.waiting = undefined;
  }

  private async serve(): Promise<void> {
    this.busy = true;
    while (this.waiting !== undefined) {
      const wish = this.waiting;
      this.waiting = undefined;
      await this.answer(wish);
    }
    this.busy = false;
  }
}
