/** 64 bits of FNV-1a over text and bytes, as 16 hexadecimal digits: tells whether anything that a result depends on changed. */
export class Fingerprint {
  private low = 0x84222325;
  private high = 0xcbf29ce4;

  add(part: string | ArrayBufferView): this {
    if (typeof part === 'string') for (let i = 0; i < part.length; i++) this.byte(part.charCodeAt(i));
    else {
      const bytes = new Uint8Array(part.buffer, part.byteOffset, part.byteLength);
      for (let i = 0; i < bytes.length; i++) this.byte(bytes[i]!);
    }
    this.byte(0x1f);
    return this;
  }

  toString(): string {
    return (this.high >>> 0).toString(16).padStart(8, '0') + (this.low >>> 0).toString(16).padStart(8, '0');
  }

  /** h = (h xor byte) * 0x100000001b3, in two 32 bit halves. */
  private byte(value: number): void {
    const l = this.low ^ (value & 0xffff);
    const h = this.high;
    const a = Math.imul(l & 0xffff, 0x1b3);
    const b = Math.imul(l >>> 16, 0x1b3) + (a >>> 16);
    this.low = ((b & 0xffff) << 16) | (a & 0xffff);
    this.high = (Math.imul(h, 0x1b3) + (l << 8) + Math.floor(b / 65536)) | 0;
  }
}
