/** Why forecasts are wrong, as found out from traces: by page, link, variant and metric, or without the variant. */
export const WHY: Readonly<Record<string, string>> = {
  'walks busy LCP':
    'layout raises the hero while its connection is still being set up: in the simulation just before it stands, in the browser just after, and the server then serves the hidden pictures first',
  'film middling FCP':
    'a frame of another site starts a process of its own; once no script holds it back this takes the processors from the first paint, which no recording shows',
  'film middling LCP':
    'a frame of another site starts a process of its own; once no script holds it back this takes the processors from the first paint, which no recording shows',
};
