/** Numbered things by what they cost, the cheapest first; one that became cheaper is in it twice, its later entry comes first. */
export class Heap {
  private keys: number[] = [];
  private items: number[] = [];

  /** @param cost what each costs now */
  constructor(private readonly cost: Float64Array) {}

  push(v: number, key: number): void {
    const { keys, items } = this;
    let k = keys.length;
    keys.push(key);
    items.push(v);
    while (k > 0) {
      const up = (k - 1) >> 1;
      if (keys[up]! <= key) break;
      keys[k] = keys[up]!;
      items[k] = items[up]!;
      k = up;
    }
    keys[k] = key;
    items[k] = v;
  }

  /** The cheapest, -1 when there is none. */
  pop(): number {
    const { keys, items } = this;
    while (keys.length > 0) {
      const v = items[0]!;
      const key = keys[0]!;
      const lastKey = keys.pop()!;
      const last = items.pop()!;
      if (keys.length > 0) this.sink(last, lastKey);
      if (key <= this.cost[v]!) return v;
    }
    return -1;
  }

  private sink(v: number, key: number): void {
    const { keys, items } = this;
    const n = keys.length;
    let k = 0;
    for (;;) {
      let down = 2 * k + 1;
      if (down >= n) break;
      if (down + 1 < n && keys[down + 1]! < keys[down]!) down++;
      if (keys[down]! >= key) break;
      keys[k] = keys[down]!;
      items[k] = items[down]!;
      k = down;
    }
    keys[k] = key;
    items[k] = v;
  }
}
