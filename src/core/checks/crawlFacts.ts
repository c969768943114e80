/** What a sweep knows of a page beyond its recording. */
export interface CrawlFacts {
  /** Links to addresses of the site that are missing or redirected. */
  readonly links: readonly {
    readonly url: string;
    /** Status at the end of the way; 0 for a circle. */
    readonly status: number;
    readonly hops: number;
    readonly end: string;
  }[];
  /** A sitemap that names the page by http, and the address it names. */
  readonly sitemapHttp?: { readonly sitemap: string; readonly url: string };
}
