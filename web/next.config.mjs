/** Headers of every answer; pages get their content security policy, with its nonce, from src/proxy.ts. */
const everywhere = [
  { key: 'X-Content-Type-Options', value: 'nosniff' },
  { key: 'X-Frame-Options', value: 'DENY' },
  { key: 'Referrer-Policy', value: 'no-referrer' },
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
  {
    key: 'Permissions-Policy',
    value:
      'camera=(), microphone=(), geolocation=(), payment=(), usb=(), serial=(), bluetooth=(), clipboard-write=(self)',
  },
];

/** The worker takes its policy from the answer that brings it. */
const files = [{ key: 'Content-Security-Policy', value: "default-src 'self'; frame-ancestors 'none'" }];

/** @type {import('next').NextConfig} */
const config = {
  reactStrictMode: true,
  transpilePackages: ['@herzschlag/core'],
  poweredByHeader: false,
  typescript: { ignoreBuildErrors: process.env['HZ_TYPES_CHECKED'] === '1' },
  headers: () =>
    Promise.resolve([
      { source: '/:path*', headers: everywhere },
      { source: '/_next/static/:path*', headers: files },
    ]),
};

export default config;
