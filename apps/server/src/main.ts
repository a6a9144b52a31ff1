import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createApp } from './app';

const root = join(dirname(fileURLToPath(import.meta.url)), '../../..');
const port = Number(process.env['PORT'] ?? 4600);

const server = createApp(join(root, 'dist/web/browser')).listen(port, '127.0.0.1', (error?: Error) => {
  if (error) {
    console.error(`Port ${port} cannot be used: ${error.message}. Choose another with PORT=… npm start.`);
    process.exit(1);
  }
  console.log(`Esquisse is ready: http://localhost:${port}`);
});
process.on('SIGTERM', () => server.close());
