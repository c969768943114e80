import { redactUrl, Secrets } from '../../core/capture/redact';
import type { SweepSettings } from '../../core/site/settings';

/** Addresses whose cut form is kept at hand. */
const KEPT = 50_000;

/**
 * The addresses of a sweep as they are shown and stored, without secrets, and as they are asked for. Two that differ in
 * a secret alone are one page.
 */
export class CutAddresses {
  readonly secrets: Secrets;
  private readonly cut = new Map<string, string>();
  private readonly whole = new Map<string, string>();

  constructor(settings: Pick<SweepSettings, 'headers' | 'basicAuth'>) {
    this.secrets = new Secrets([
      ...settings.headers.map((h) => h.value),
      ...(settings.basicAuth ? [settings.basicAuth.password] : []),
    ]);
  }

  /** An address as it is shown and stored; the whole one is remembered. */
  shown(url: string): string {
    const known = this.cut.get(url);
    if (known !== undefined) return known;
    const cut = this.secrets.cutKnown(redactUrl(url, this.secrets), 'address');
    if (this.cut.size >= KEPT) this.cut.clear();
    this.cut.set(url, cut);
    if (cut !== url) this.remember(cut, url);
    return cut;
  }

  /** Says what a shown address is in whole. */
  remember(shown: string, whole: string): void {
    if (!this.whole.has(shown)) this.whole.set(shown, whole);
  }

  /** The address to ask for. */
  asked(shown: string): string {
    return this.whole.get(shown) ?? shown;
  }

  /** The whole address where it differs from the shown one. */
  hidden(shown: string): string | undefined {
    return this.whole.get(shown);
  }
}
