import { failed, succeeded, type Plan, type Result } from '@herzschlag/core';

/** What a fragment with a plan begins with. */
const MARK = '#plan=';

/** Programs that pass links on cut longer ones. */
const LONGEST = 16_000;

async function through(
  bytes: BlobPart,
  stream: CompressionStream | DecompressionStream,
): Promise<Uint8Array> {
  const piped = new Blob([bytes])
    .stream()
    .pipeThrough(stream as ReadableWritablePair<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>);
  return new Uint8Array(await new Response(piped).arrayBuffer());
}

/** A link that carries a whole plan in its fragment, which no server sees; a sentence where the plan is too large for one. */
export async function linkOf(plan: Plan, origin: string): Promise<Result<string>> {
  const packed = await through(JSON.stringify(plan), new CompressionStream('deflate-raw'));
  const text = btoa(Array.from(packed, (byte) => String.fromCharCode(byte)).join(''));
  const link = `${origin}/${MARK}${text.replaceAll('+', '-').replaceAll('/', '_').replaceAll('=', '')}`;
  return link.length > LONGEST
    ? failed(
        `A link with this plan would have ${link.length} characters, more than the ${LONGEST} that other programs pass on: save the file instead.`,
      )
    : succeeded(link);
}

/** The text of the plan that a fragment carries; undefined where it carries none. @throws TypeError where it is damaged. */
export async function planTextIn(fragment: string): Promise<string | undefined> {
  if (!fragment.startsWith(MARK)) return undefined;
  const text = atob(fragment.slice(MARK.length).replaceAll('-', '+').replaceAll('_', '/'));
  const bytes = Uint8Array.from(text, (sign) => sign.codePointAt(0) ?? 0);
  return new TextDecoder().decode(await through(bytes, new DecompressionStream('deflate-raw')));
}
