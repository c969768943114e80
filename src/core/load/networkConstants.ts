/** Constants of the network; docs/accuracy.md says what each is worth. */
export const NETWORK = {
  segmentBytes: 1440,
  /** Segments of one packet here: as many as one acknowledgement covers (RFC 1122, 4.2.3.2). */
  perPacket: 2,
  /** The same in the perturbed simulations of a range, which need not be as fine. */
  perPacketInDraws: 4,
  /** IP, TCP and TLS bytes around each segment. */
  segmentOverhead: 60,
  /** What the server sends while TLS is set up: certificate and its messages. */
  handshakeBytes: 2200,
  /** What the browser sends for it: most of it is a key that quantum computers do not break. */
  helloBytes: 1_800,
  /** A TLS record (RFC 8446, 5.1), which nobody can read before it is there as a whole: servers fill it where they can. */
  recordBytes: 16_384,
  /** Of the headers of a request as much remains on HTTP/2 (RFC 7541): of a connection's first one, and of those that repeat it. */
  firstHeaders: 0.75,
  laterHeaders: 0.35,
  /** Processor time of a handshake on both sides, in ms. */
  handshakeMs: 2.48,
  /** Longest wait at the bottleneck before packets are dropped. */
  queueMs: 200,
  /** Packets of one file at most. */
  maxPackets: 4000,
  perOriginH1: 6,
  /** What a server hands over of one HTTP/2 stream before it looks at the others. */
  turnBytes: 16_128,
  /** Requests that went out at once are answered so soon after one another that their answers share from the start, in ms. */
  togetherMs: 2,
  /** A server hands over more as soon as less than this is unsent; what is more urgent comes behind it. */
  unsentBytes: 16_384,
};
