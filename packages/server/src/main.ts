import { configFromEnvironment } from './config';
import { startServer } from './server';

async function main(): Promise<void> {
  const running = await startServer(configFromEnvironment(process.env));
  console.log(`ready ${running.address}`);
  let stopping = false;
  const stop = (): void => {
    if (stopping) return;
    stopping = true;
    void running.close().then(() => process.exit(0));
  };

  // a mistake in one request must not end everyone's work
  process.on('unhandledRejection', (error) => console.error('not caught:', error));
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
}

main().catch((error: unknown) => {
  console.error((error as Error).message);
  process.exit(1);
});
