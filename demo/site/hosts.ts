/** Hosts of the stand-in site, each on its own loopback address. */
export interface DemoHost {
  readonly name: string;
  readonly address: string;
  /** Protocol offered over TLS. */
  readonly protocol: 'h2' | 'h1';
  /** Think time before an answer, in ms: pages and files. */
  readonly pageMs: number;
  readonly fileMs: number;
  /** Whether text is sent with gzip. */
  readonly compresses: boolean;
}

export const HOSTS: readonly DemoHost[] = [
  { name: 'fernhollow.example', address: '127.0.77.1', protocol: 'h1', pageMs: 40, fileMs: 20, compresses: false },
  { name: 'www.fernhollow.example', address: '127.0.77.2', protocol: 'h2', pageMs: 140, fileMs: 12, compresses: true },
  {
    name: 'media.fernhollow.example',
    address: '127.0.77.3',
    protocol: 'h1',
    pageMs: 30,
    fileMs: 25,
    compresses: false,
  },
  {
    name: 'tickets.fernhollow.example',
    address: '127.0.77.4',
    protocol: 'h1',
    pageMs: 420,
    fileMs: 60,
    compresses: false,
  },
  {
    name: 'count.petalmetrics.example',
    address: '127.0.77.5',
    protocol: 'h2',
    pageMs: 90,
    fileMs: 180,
    compresses: true,
  },
  { name: 'maps.lanefinder.example', address: '127.0.77.6', protocol: 'h1', pageMs: 110, fileMs: 90, compresses: true },
];

/** The site's own main host. */
export const WWW = 'https://www.fernhollow.example';
export const MEDIA = 'https://media.fernhollow.example';
export const COUNT = 'https://count.petalmetrics.example';
export const TICKETS = 'https://tickets.fernhollow.example';

/** Address map for the recorder: `HOST:PORT=ADDRESS:PORT`. */
export function hostMap(ports: { readonly http: number; readonly https: number }): string[] {
  return HOSTS.flatMap((h) => [`${h.name}:80=${h.address}:${ports.http}`, `${h.name}:443=${h.address}:${ports.https}`]);
}
