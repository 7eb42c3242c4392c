/** The theme the page is in; what draws its colours itself draws anew when it changes. */
class Themed {
  now = $state<'paper' | 'dusk'>('paper');

  apply(theme: 'paper' | 'dusk'): void {
    document.documentElement.dataset.theme = theme;
    this.now = theme;
  }
}
export const themed = new Themed();
