/** A recording with all its times of day moved: every date of it that is written as ISO 8601 with milliseconds. */
export function shifted(har: string, byMs: number): string {
  return har.replace(/"(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z)"/g, (_, at: string) =>
    JSON.stringify(new Date(Date.parse(at) + byMs).toISOString()),
  );
}
