import { timeText } from '../handover/effectText';
import type { FieldRow } from './fieldData';

/** What the lab says of a page, for the same device. Times in ms. */
export interface LabPage {
  readonly ttfbMs: number;
  readonly fcpMs: number;
  readonly lcpMs: number;
  readonly cls: number;
  /** Redirects in front of the page in the recording. */
  readonly redirects: number;
}

/** A likely reason why field and lab differ, with what speaks for it. */
export interface Reason {
  readonly reason: string;
  readonly because: string;
}

/** Below this share a difference says nothing. */
const APART = 0.25;

/** Likely reasons why what visitors met differs from what was forecast for them; none where they agree. */
export function disagreements(lab: LabPage, row: FieldRow): Reason[] {
  const out: Reason[] = [];
  const { ttfbMs, fcpMs, lcpMs, cls } = row.p75;
  const off = (field: number | undefined, model: number) =>
    field === undefined || model <= 0 ? 0 : (field - model) / model;
  const slower = off(ttfbMs, lab.ttfbMs);
  if (ttfbMs !== undefined && slower > APART && ttfbMs - lab.ttfbMs > 150)
    out.push({
      reason:
        lab.redirects > 0
          ? 'Redirects in front of the page, or a slow server at peak'
          : 'A slow server at peak, redirects in front, or visitors far away',
      because: `the first byte takes ${timeText(ttfbMs)} in the field and ${timeText(lab.ttfbMs)} here`,
    });
  if (fcpMs !== undefined && off(fcpMs, lab.fcpMs) < -APART)
    out.push({
      reason: 'Visits with a filled cache, or pages brought back by the back button',
      because: `text shows after ${timeText(fcpMs)} in the field and after ${timeText(lab.fcpMs)} here with an empty cache`,
    });
  if (fcpMs !== undefined && lcpMs !== undefined) {
    const [field, model] = [lcpMs - fcpMs, lab.lcpMs - lab.fcpMs];
    if (Math.abs(field - model) > Math.max(400, APART * lab.lcpMs))
      out.push({
        reason:
          field < model
            ? 'Another hero: a consent layer or a text is the largest part for many visitors'
            : 'Another hero: on other screens, or signed in, something later is the largest part',
        because: `from first paint to hero paint it is ${timeText(Math.max(0, field))} in the field and ${timeText(Math.max(0, model))} here`,
      });
  }
  if (cls !== undefined && cls - lab.cls > 0.05)
    out.push({
      reason: 'Shifts that come later than the recording, by scrolling or a consent layer',
      because: `layout shift is ${cls.toFixed(2)} in the field and ${lab.cls.toFixed(2)} here`,
    });
  if (row.of === 'origin' && out.length > 0)
    out.push({ reason: 'The figures are of the whole origin', because: 'there are none of this page itself' });
  return out;
}
