import { NextResponse, type NextRequest } from 'next/server';
import { contentPolicy, isExpectedHost } from './security.ts';

/**
 * Runs before every page: refuses a Host that is not expected, so that no other name can be made to lead here, and gives
 * each answer a content security policy with a nonce of its own.
 */
export function proxy(request: NextRequest): NextResponse {
  const host = request.headers.get('host') ?? '';
  if (!isExpectedHost(host, process.env['HERZSCHLAG_HOSTS'])) {
    return new NextResponse(`Herzschlag is not served under the name “${host.slice(0, 80)}”.\n`, {
      status: 421,
      headers: { 'content-type': 'text/plain; charset=utf-8' },
    });
  }
  const nonce = btoa(crypto.randomUUID());
  const policy = contentPolicy(nonce, process.env.NODE_ENV !== 'production');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const answer = NextResponse.next({ request: { headers } });
  answer.headers.set('content-security-policy', policy);
  return answer;
}

/** Files that never change are not pages. */
export const config = { matcher: ['/((?!_next/static|_next/image|icon.svg).*)'] };
