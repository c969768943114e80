/**
 * What one connection may have in flight: slow start from ten segments (RFC 6928), left early when the queue shows
 * (HyStart, RFC 9406 and before: delay, and trains of acknowledgements), and congestion avoidance as CUBIC has it
 * (RFC 9438). After a rest the window is as large as before: servers that pace what they send (BBR, as those that are
 * measured) keep it, though RFC 5681, 4.1 would have a sender begin anew after a retransmission timeout.
 */
export interface Window {
  segments: number;
  /** Slow start ends here. */
  threshold: number;
  cutAt: number;
  /** Segments when a packet was last lost; 0 for none yet. */
  atLoss: number;
  /** From that loss until the window is as large again, in s (RFC 9438, 4.2: K). */
  regainedAfter: number;
  /** A round ends when this packet is acknowledged. */
  roundEnds: number;
  roundStartedAt: number;
  lastAckAt: number;
  /** Queueing that the first packets of a round met, and how many have told. */
  leastDelay: number;
  samples: number;
}

/** Constants of congestion control. */
export const CONGESTION = {
  initial: 10,
  /** Below this slow start is never left early. */
  early: 16,
  /** Queueing that ends slow start, at least and at most, in ms; between them an eighth of the round trip. */
  leastDelayMs: 4,
  mostDelayMs: 16,
  /** How many packets of a round tell. */
  samples: 8,
  /** Acknowledgements that come closer together than this are one train. */
  trainMs: 2,
  /** Growth for each segment acknowledged after slow start, while nothing was lost. */
  growthBeforeLoss: 0.04,
  lossFactor: 0.7,
  /** Of the cubic by which the window grows after a loss (RFC 9438, 5: C). */
  cubicFactor: 0.4,
};

export const newWindow = (): Window => ({
  segments: CONGESTION.initial,
  threshold: Infinity,
  cutAt: -Infinity,
  atLoss: 0,
  regainedAfter: 0,
  roundEnds: -1,
  roundStartedAt: -Infinity,
  lastAckAt: -Infinity,
  leastDelay: Infinity,
  samples: 0,
});

/** A packet was lost: the window shrinks, once a round trip. */
export function lost(w: Window, now: number, rttMs: number, queuedMs: number): void {
  if (now - w.cutAt <= rttMs + queuedMs) return;
  w.atLoss = w.segments;
  w.regainedAfter = Math.cbrt((w.atLoss * (1 - CONGESTION.lossFactor)) / CONGESTION.cubicFactor);
  w.segments = Math.max(2, w.segments * CONGESTION.lossFactor);
  w.threshold = w.segments;
  w.cutAt = now;
}

/**
 * Segments were acknowledged: the window grows.
 * @param segments how many
 * @param packet the number of their packet on the connection, and `next` that of the next one to be sent
 * @param queuedMs how long it queued
 * @param limited whether the window was what kept the sender back (RFC 7661)
 */
export function acknowledged(
  w: Window,
  now: number,
  rttMs: number,
  segments: number,
  packet: number,
  next: number,
  queuedMs: number,
  limited: boolean,
): void {
  if (w.segments < w.threshold) {
    if (packet > w.roundEnds) {
      w.roundEnds = next - 1;
      w.roundStartedAt = w.lastAckAt = now;
      w.leastDelay = Infinity;
      w.samples = 0;
    }
    if (w.samples < CONGESTION.samples) {
      w.samples += segments;
      if (queuedMs < w.leastDelay) w.leastDelay = queuedMs;
    } else if (w.segments >= CONGESTION.early) {
      const limit = Math.min(CONGESTION.mostDelayMs, Math.max(CONGESTION.leastDelayMs, rttMs / 8));
      if (w.leastDelay > limit) w.threshold = w.segments;
    }
    if (now - w.lastAckAt <= CONGESTION.trainMs) {
      w.lastAckAt = now;
      if (now - w.roundStartedAt > rttMs / 2 && w.segments >= CONGESTION.early) w.threshold = w.segments;
    }
    if (limited) w.segments += segments;
    return;
  }
  if (!limited) return;
  if (w.atLoss === 0) {
    w.segments += segments * CONGESTION.growthBeforeLoss;
    return;
  }
  const t = (now - w.cutAt) / 1000;
  const d = t - w.regainedAfter;
  const cubic = w.atLoss + CONGESTION.cubicFactor * d * d * d;
  const friendly = w.atLoss * CONGESTION.lossFactor + (0.53 * t * 1000) / Math.max(1, rttMs);
  w.segments += segments * Math.max(0.01, Math.min(1, (Math.max(cubic, friendly) - w.segments) / w.segments));
}
