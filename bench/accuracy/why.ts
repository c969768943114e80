/** Why forecasts are wrong, as found out from traces: by page, link, variant and metric, or without the variant. */
export const WHY: Readonly<Record<string, string>> = {};
