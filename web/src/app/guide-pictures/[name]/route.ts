import { guidePicture } from '../../../features/guide/pages.ts';

/** A picture of the guide. */
export async function GET(_: Request, { params }: { params: Promise<{ name: string }> }): Promise<Response> {
  const { name } = await params;
  const picture = await guidePicture(name);
  if (!picture) return new Response('There is no such picture.\n', { status: 404 });
  return new Response(picture, {
    headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=3600' },
  });
}
