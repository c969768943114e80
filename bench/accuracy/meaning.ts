/** What the fitted constants mean, with their unit. */
export const MEANING: Readonly<Record<string, string>> = {
  'browser.commitMs': 'taking the page over when its first bytes are there: main thread, ms at factor 1',
  'browser.commitFixedMs': 'the same beside the main thread, ms',
  'browser.requestMs': 'sending one request: main thread, ms at factor 1',
  'browser.requestFixedMs': 'the way of a request to the network, ms',
  'browser.firstFrameMs': 'the first frame beside its style, layout and paint: main thread, ms at factor 1',
  'browser.deliverMs': 'handing one response to the page, ms at factor 1',
  'browser.styleMsPerByte': 'reading a stylesheet, ms a byte at factor 1',
  'browser.runOverheadMs': 'beside a script’s own work, ms at factor 1',
  'browser.clockFactor': 'what a clock shows for each ms of processor time of recorded work',
  'browser.presentMs': 'from the end of a frame’s work to the screen where no recording tells, ms',
  'browser.presentFixedMs': 'beside what the recording tells of that, ms',
  'browser.drawMsPerMillion': 'drawing a picture, ms at factor 1 a million points',
  'browser.drawFixedMsPerMillion': 'the same beside the main thread, ms a million points',
  'network.handshakeBytes': 'what a server sends to set TLS up, bytes',
  'network.handshakeMs': 'working out TLS on both sides, ms',
  'congestion.growthBeforeLoss': 'growth of the window a segment after slow start, before any loss',
};
