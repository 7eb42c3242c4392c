/** Gives a field the focus as soon as it is there, also when something else has it: `autofocus` does that only on a page nobody has touched. */
export function focused(node: HTMLElement): void {
  node.focus();
  if (node instanceof HTMLInputElement && ['text', 'search', ''].includes(node.type))
    node.setSelectionRange(node.value.length, node.value.length);
}
