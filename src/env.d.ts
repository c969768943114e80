import type { Who } from './server/access/who';

declare global {
  namespace App {
    interface Locals {
      /** Whoever asks; set by the middleware for every request that needs somebody. */
      who?: Who;
      /** Address of the other end of the connection. */
      address?: string;
    }
  }
}
