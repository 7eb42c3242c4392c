/** How large a page of a document is. @param runs width, height, and how many pages in a row have them */
export function pageSize(runs: readonly (readonly number[])[], page: number): { width: number; height: number } {
  let left = page;
  for (const [width = 1, height = 1, pages = 0] of runs) {
    if (left < pages) return { width, height };
    left -= pages;
  }
  return { width: 1, height: 1 };
}
