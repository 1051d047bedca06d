/** @type {import('next').NextConfig} */
const config = {
  reactStrictMode: true,
  transpilePackages: ['@herzschlag/core'],
  poweredByHeader: false,
};

export default config;
