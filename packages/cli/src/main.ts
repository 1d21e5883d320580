import { benchStep } from './commands/bench';
benchStep({ size: Number(process.argv[2]), threads: Number(process.argv[3]), steps: 15, warm: 5, json: false });
process.exit(0);
