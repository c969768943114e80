import { Command } from 'commander';

/** `keen-lens snippet`: the script for the console of any browser. */
export function snippetCommand(): Command {
  return new Command('snippet')
    .description("Print the script for a browser's console that saves what a page tells of its own load.")
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens snippet > snippet.js\n\nPaste it into the console of any browser once the page has loaded; audit and forecast take the file that it saves.',
    )
    .action(async () => {
      const { PAGE_SNIPPET } = await import('../engine/record/pageSnippet');
      process.stdout.write(`${PAGE_SNIPPET}\n`);
    });
}
