import { pino } from 'pino';

/** The server's log: JSON lines on standard error. */
export const log = pino({ name: 'keen-lens', level: process.env.KEEN_LENS_LOG ?? 'info' }, pino.destination(2));
