/** Program memory and RAM as the bytes they are. */
export class Memory {
  private readonly places: readonly { from: number; view: DataView }[];

  constructor(program: Uint8Array, flashAt: number) {
    const image = new Uint8Array(0x10000);
    image.set(program);
    this.places = [
      { from: flashAt, view: new DataView(image.buffer) },
      { from: 0x20000000, view: new DataView(new ArrayBuffer(0x4000)) },
    ];
  }

  private at(address: number): { view: DataView; at: number } | undefined {
    for (const { from, view } of this.places)
      if (address >= from && address < from + view.byteLength) return { view, at: address - from };
    return undefined;
  }

  /** What is at an address of program memory or RAM; undefined elsewhere. */
  read(address: number, bytes: 1 | 2 | 4): number | undefined {
    const place = this.at(address);
    if (!place) return undefined;
    const { view, at } = place;
    return bytes === 4
      ? view.getUint32(at, true)
      : bytes === 2
        ? view.getUint16(at, true)
        : view.getUint8(at);
  }

  /** Writes there; false elsewhere. */
  write(address: number, value: number, bytes: 1 | 2 | 4): boolean {
    const place = this.at(address);
    if (!place) return false;
    const { view, at } = place;
    if (bytes === 4) view.setUint32(at, value >>> 0, true);
    else if (bytes === 2) view.setUint16(at, value & 0xffff, true);
    else view.setUint8(at, value & 0xff);
    return true;
  }
}
