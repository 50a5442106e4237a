import { readConfig } from './config.ts';
import { sayError } from './errors.ts';
import { startService } from './service.ts';

/** Starts the service and stops it in order. Configuration comes from the environment; docs/operating.md lists it. */
try {
  const config = readConfig(process.env);
  let stopping = false;
  const service = await startService(config, () => process.exit(1));
  if (service.administrator?.madeUp != null) {
    const { email, madeUp } = service.administrator;
    console.log(`\n  Sign in as  ${email}\n  password    ${madeUp}\n  This is shown once; you choose your own password when you sign in.\n`);
  }
  console.log(service.address === null ? 'monsoon works' : `monsoon at ${service.address}/`);
  process.send?.({ ready: service.address });
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    await service.stop();
    process.exit(0);
  };
  process.on('SIGINT', () => void stop());
  process.on('SIGTERM', () => void stop());
} catch (error) {
  const code = (error as { code?: string }).code;
  const taken = code === 'EADDRINUSE' ? `port ${process.env['MONSOON_PORT'] ?? 4700} is taken; set MONSOON_PORT to another` : null;
  console.error(`monsoon did not start: ${taken ?? sayError(error)}`);
  process.exit(1);
}
