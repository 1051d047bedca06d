export { startShared as default } from './server.ts';
