/** Brings an element to the top of the panel it scrolls in, and moves nothing else of the page. */
export function reveal(element: Element): void {
  let panel = element.parentElement;
  while (panel && !(panel.scrollHeight > panel.clientHeight && /auto|scroll/.test(getComputedStyle(panel).overflowY)))
    panel = panel.parentElement;
  // below the search field that stays at the top
  if (panel) panel.scrollTop += element.getBoundingClientRect().top - panel.getBoundingClientRect().top - 56;
}
