/** A hash over text that white space does not change: words are fed in as they are met. Not for secrets. */
export class TextHash {
  private a = 0x811c9dc5;
  private b = 0x1b873593;
  private gap = false;
  private any = false;

  add(text: string): void {
    for (let i = 0; i < text.length; i++) {
      const c = text.charCodeAt(i);
      if (c <= 32 || c === 160) {
        this.gap = this.any;
        continue;
      }
      if (this.gap) this.mix(32);
      this.gap = false;
      this.any = true;
      this.mix(c);
    }
    this.gap = this.any;
  }

  /** 13 base-36 characters at most. */
  value(): string {
    return (this.a >>> 0).toString(36) + (this.b >>> 0).toString(36);
  }

  private mix(c: number): void {
    this.a = Math.imul(this.a ^ c, 0x01000193);
    this.b = Math.imul(this.b ^ c, 0x85ebca6b) ^ (this.b >>> 13);
  }
}
