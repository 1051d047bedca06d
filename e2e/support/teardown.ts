export { stopShared as default } from './server.ts';
