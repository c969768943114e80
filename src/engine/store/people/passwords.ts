import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';

/** Cost of a hash (RFC 7914): about 32 MB and a tenth of a second. */
const COST = { N: 2 ** 15, r: 8, p: 1 };
const LENGTH = 32;

const derive = promisify<string, Buffer, number, { N: number; r: number; p: number; maxmem: number }, Buffer>(scrypt);

/** A password as it is kept: scrypt with a salt of its own. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  const { N, r, p } = COST;
  const hash = await derive(password.normalize('NFKC'), salt, LENGTH, { N, r, p, maxmem: 256 * N * r });
  return `scrypt:${N}:${r}:${p}:${salt.toString('base64')}:${hash.toString('base64')}`;
}

let nobody: Promise<string> | undefined;

/** Whether a password is the one that was kept. It takes as long where there is none: names cannot be guessed by time. */
export async function isPassword(password: string, kept: string | null | undefined): Promise<boolean> {
  nobody ??= hashPassword(randomBytes(16).toString('hex'));
  const [, N, r, p, salt, hash] = (kept ?? (await nobody)).split(':');
  const wanted = Buffer.from(hash ?? '', 'base64');
  const options = { N: Number(N), r: Number(r), p: Number(p), maxmem: 256 * Number(N) * Number(r) };
  const given = await derive(password.normalize('NFKC'), Buffer.from(salt ?? '', 'base64'), LENGTH, options);
  return timingSafeEqual(given, wanted) && typeof kept === 'string';
}
