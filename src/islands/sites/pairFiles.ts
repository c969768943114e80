/** What the console snippet calls its files. */
const TOLD = /\.page\.json$/i;
const HAR = /\.(har|har\.json)$/i;

/**
 * Files as they are sent: where files of the console snippet come together with HAR files, all of these go as one ZIP, in
 * which the server joins those of one load.
 */
export async function pairFiles(files: readonly File[]): Promise<readonly File[]> {
  const told = files.filter((f) => TOLD.test(f.name));
  const hars = files.filter((f) => HAR.test(f.name));
  if (told.length === 0 || hars.length === 0) return files;
  const { zipSync } = await import('fflate');
  const together = [...told, ...hars];
  const inside: Record<string, Uint8Array> = {};
  for (const [i, file] of together.entries())
    inside[`${i + 1}-${file.name}`] = new Uint8Array(await file.arrayBuffer());
  const zip = zipSync(inside, { level: 1 });
  const name = `${hars.map((f) => f.name).join(' + ')} + ${told.map((f) => f.name).join(' + ')}.zip`;
  return [new File([zip as BlobPart], name.slice(0, 200)), ...files.filter((f) => !together.includes(f))];
}
