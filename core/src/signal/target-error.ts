/** Thrown when a target cannot be understood; `key` is the field at fault. */
export class TargetError extends Error {
  readonly key: string;
  constructor(key: string, message: string) {
    super(message);
    this.key = key;
  }
}
