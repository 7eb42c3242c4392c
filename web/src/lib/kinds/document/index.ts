import { flatKind } from '../flat/kind';
import { Book } from './book.svelte';
import { DocumentSurface } from './surface.svelte';

/** Documents: pages under each other, every flat shape on a page, answers per page. */
export const begin = flatKind(
  (item) => new Book(item),
  (...opened) => new DocumentSurface(...opened)
);
