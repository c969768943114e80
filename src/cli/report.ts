import type { LanguageFile } from '../core/handover/report/words';
import { Command, Option } from 'commander';
import { DEFAULT_VISITOR, parseVisitor } from '../core/load/visitors';
import { reportFacts, READERS, type Reader, type ReportFacts } from '../core/handover/report/facts';
import { FORMATS, FORMATS_OF, type Format } from '../core/handover/report/formats';
import { bytesText } from '../core/checks/texts';
import { auditInput, progress, wholeNumber, writeWhole } from './options';
import { UsageError } from './usage';

interface ReportFlags {
  site?: number;
  reader: Reader;
  format: Format;
  output: string;
  visitor: string;
  language?: string;
  data?: string;
}

/** `keen-lens report`: what an owner, a fixer or an auditor gets. */
export function reportCommand(): Command {
  return new Command('report')
    .description('Write a report of captures, or of the latest sweep of a site, for an owner, a fixer or an auditor.')
    .argument('[file...]', 'HAR, WARC, MHTML or saved pages')
    .option('--site <n>', 'a site of the database in place of files', wholeNumber(1))
    .addOption(new Option('--reader <who>', 'who reads it').choices(READERS).makeOptionMandatory())
    .addOption(new Option('--format <format>', 'what it comes as').choices(FORMATS).default('html'))
    .requiredOption('-o, --output <file>', 'file to write')
    .option('--visitor <name or spec>', 'for whom times are forecast', DEFAULT_VISITOR.id)
    .option(
      '--language <tag or file>',
      'language of HTML and PDF: en, de, or a language file (default: the site’s own, else en)',
    )
    .option('--data <dir>', 'folder of the database')
    .addHelpText(
      'after',
      '\nOwner: html, pdf, json. Fixer: zip (tasks with the edited files), html, pdf, md, xlsx, csv, json. Auditor: html, pdf, xlsx, zip (every table as CSV), csv, json, sarif.\n\nExample:\n  keen-lens report visit.har --reader owner --format pdf -o visit.pdf\n  keen-lens report --site 1 --reader fixer --format md -o tasks.md',
    )
    .action(async (files: string[], flags: ReportFlags) => {
      if (files.length > 0 === (flags.site !== undefined))
        throw new UsageError('Name files or --site, one of the two. (--help shows how)');
      const { aboutPages, makeReport, pagesOfAudits, pagesOfSweep, reportedSweep } =
        await import('../engine/services/makeReport');
      if (!FORMATS_OF[flags.reader].includes(flags.format))
        throw new UsageError(
          `The report for the ${flags.reader} comes as ${FORMATS_OF[flags.reader].join(', ')}, not as ${flags.format}.`,
        );
      const visitor = parseVisitor(flags.visitor);
      const language = flags.language === undefined ? undefined : await languageOf(flags.language, flags.data);
      const inLanguage = language && { language };
      let facts: ReportFacts;
      if (flags.site === undefined) {
        const read = [];
        for (const file of files) {
          progress(`examining ${file}`);
          read.push(...(await auditInput(file)));
        }
        const pages = pagesOfAudits(read);
        progress('forecasting');
        facts = await reportFacts(pages, aboutPages(pages), visitor, inLanguage);
      } else {
        const { dataFolder, openStore } = await import('../engine/store/store');
        const store = await openStore(flags.data ?? dataFolder());
        try {
          const sweep = await reportedSweep(store, flags.site);
          const pages = await pagesOfSweep(store, sweep, flags.format);
          const extras = await (await import('../engine/services/reportExtras')).reportExtras(store, sweep, visitor);
          progress('forecasting');
          facts = await reportFacts(pages, sweep, visitor, { ...extras, ...inLanguage });
        } finally {
          await store.destroy();
        }
      }
      const bytes = await makeReport(facts, flags.reader, flags.format, (missing) =>
        progress(`not in the language file: ${missing.length} texts, the first "${missing[0]}"`),
      );
      await writeWhole(flags.output, bytes);
      progress(`${flags.output}: ${bytesText(bytes.length)}`);
    });
}

/** The language of a tag or file; undefined for English. */
async function languageOf(wanted: string, data: string | undefined): Promise<LanguageFile | undefined> {
  const { readLanguage, readLanguageFile } = await import('../engine/services/languages');
  if (/\.json$/i.test(wanted)) return readLanguageFile(wanted);
  const { dataFolder } = await import('../engine/store/store');
  return readLanguage(wanted, data ?? dataFolder());
}
