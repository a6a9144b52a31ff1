import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createApp } from './app';

const root = join(dirname(fileURLToPath(import.meta.url)), '../../..');
/** Further names that the application is asked by, parted by commas. */
const hosts = (process.env['HOSTS'] ?? '').split(',').filter(Boolean);
const port = Number(process.env['PORT'] ?? 4600);

const server = createApp(join(root, 'dist/web/browser'), hosts).listen(port, '127.0.0.1', (error?: Error) => {
  if (error) {
    console.error(`Port ${port} cannot be used: ${error.message}. Choose another with PORT=… npm start.`);
    process.exit(1);
  }
  console.log(`Esquisse is ready: http://localhost:${port}`);
});
process.on('SIGTERM', () => server.close());
