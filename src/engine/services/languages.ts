import fs from 'node:fs/promises';
import path from 'node:path';
import { object, string, ValidationError } from 'yup';
import { InputError } from '../../core/capture/errors';
import { placeholders, type LanguageFile } from '../../core/handover/report/words';
import { projectRoot } from '../store/store';

/** A language that reports can be written in. */
export interface Language {
  readonly language: string;
  readonly name: string;
}

export const ENGLISH: Language = { language: 'en', name: 'English' };

const head = object({
  language: string()
    .matches(/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/, 'The tag of a language is written like "de" or "pt-BR".')
    .required('It says no "language".'),
  name: string().max(60).required('It says no "name".'),
});

/** Languages that ship, and those whose files lie in the folder `languages` beside the database. */
export async function listLanguages(dataFolder: string): Promise<Language[]> {
  const files = await allFiles(dataFolder);
  return [ENGLISH, ...files.map(({ language, name }) => ({ language, name }))];
}

/**
 * The file of a language by its tag; undefined for English.
 * @throws InputError for one that is not there
 */
export async function readLanguage(wanted: string, dataFolder: string): Promise<LanguageFile | undefined> {
  if (wanted === ENGLISH.language) return undefined;
  const files = await allFiles(dataFolder);
  const found = files.find((f) => f.language === wanted);
  if (found) return found;
  throw new InputError(
    `There is no language "${wanted}".`,
    path.join(dataFolder, 'languages'),
    `There are: ${['en', ...files.map((f) => f.language)].join(', ')}. Put a file like languages/de.json there for another.`,
  );
}

/**
 * Reads a language file from wherever it lies: for whoever may read every file here anyway.
 * @throws InputError for one that cannot be read, and for what is wrong in it
 */
export async function readLanguageFile(file: string): Promise<LanguageFile> {
  return parseLanguage(await textOf(file), file);
}

/**
 * Reads the text of a language file.
 * @throws InputError saying what is wrong in it
 */
export function parseLanguage(text: string, fileName: string): LanguageFile {
  const fault = (what: string) =>
    new InputError(what, fileName, 'Begin with a copy of languages/de.json: docs/handover.md says how.');
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw fault('The language file is no JSON.');
  }
  const { texts } = (value ?? {}) as { texts?: unknown };
  if (typeof texts !== 'object' || texts === null || Array.isArray(texts)) throw fault('The file has no "texts".');
  const out: Record<string, string> = {};
  for (const [english, said] of Object.entries(texts)) {
    if (typeof said !== 'string') throw fault(`The text of "${english.slice(0, 80)}" is no text.`);
    const strange = placeholders(said).find((name) => !placeholders(english).includes(name));
    if (strange) throw fault(`"${said.slice(0, 80)}" has {${strange}}, which the English text has not.`);
    out[english] = said;
  }
  try {
    const { language, name } = head.validateSync(value);
    return { language, name, texts: out };
  } catch (error) {
    if (error instanceof ValidationError) throw fault(error.message);
    throw error;
  }
}

/** Files of languages; of two for one language that beside the database counts, and a broken one is passed over. */
async function allFiles(dataFolder: string): Promise<LanguageFile[]> {
  const found = new Map<string, LanguageFile>();
  for (const folder of [path.join(projectRoot(), 'languages'), path.join(dataFolder, 'languages')]) {
    const names = await fs.readdir(folder).catch(() => []);
    for (const name of names.filter((n) => n.endsWith('.json')).sort()) {
      const file = path.join(folder, name);
      try {
        const read = parseLanguage(await fs.readFile(file, 'utf8'), file);
        if (read.language !== ENGLISH.language) found.set(read.language, read);
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
      }
    }
  }
  return [...found.values()];
}

async function textOf(file: string): Promise<string> {
  try {
    return await fs.readFile(file, 'utf8');
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    throw new InputError(
      code === 'ENOENT'
        ? 'There is no such language file.'
        : `The language file cannot be read (${code ?? 'unknown'}).`,
      file,
      'Give the tag of a language, or the path of its file.',
    );
  }
}
