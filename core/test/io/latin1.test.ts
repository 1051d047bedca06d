import fc from 'fast-check';
import { latin1, latin1Bytes } from '../../src/io/latin1.ts';

it('takes characters as bytes and back; each one beyond 255 becomes one question mark', () => {
  expect([...latin1Bytes('Aé€😀z')]).toEqual([0x41, 0xe9, 63, 63, 0x7a]);
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 20_000 }), (bytes) => {
      expect(latin1Bytes(latin1(bytes))).toEqual(bytes);
    }),
  );
});
