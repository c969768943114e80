declare namespace App {
  interface Locals {
    /** Whoever asks; set by the middleware for every request that needs somebody. */
    who?: import('./server/access/who').Who;
    /** Address of the other end of the connection. */
    address?: string;
  }
}
