/** Names of this machine, which need not be named. */
const LOCAL = new Set(['localhost', '127.0.0.1', '[::1]']);

/** Whether a Host header is one that the application is served under: this machine's, or one of a list with commas. */
export function isExpectedHost(host: string, others = ''): boolean {
  const name = host.toLowerCase().replace(/:\d{1,5}$/, '');
  const named = others
    .split(',')
    .map((one) => one.trim().toLowerCase())
    .filter(Boolean);
  return LOCAL.has(name) || named.includes(name);
}

/**
 * What a page may load and run: its own files, and scripts and style sheets that carry its nonce. Style attributes are
 * allowed, since they run nothing and the server's answer has some. While developing, modules are evaluated from text.
 */
export function contentPolicy(nonce: string, developing: boolean): string {
  return [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'${developing ? " 'unsafe-eval'" : ''}`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self'",
    "manifest-src 'self'",
    "form-action 'self'",
    "base-uri 'none'",
    "frame-ancestors 'none'",
  ].join('; ');
}
