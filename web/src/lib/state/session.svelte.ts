import { api, ask, onSessionEnded, type Schemas } from '$lib/api/client';
import { shelf } from './shelf';

/** Who is signed in. `ended` asks for a sign-in over the page that is open. */
class Session {
  user = $state<Schemas['User'] | null>(null);
  firstRun = $state(false);
  demoPeople = $state<Schemas['Session']['demo_people']>([]);
  loaded = $state(false);
  ended = $state(false);
  /** grows with every sign-in, for those who wait to try again */
  signIns = $state(0);

  constructor() {
    onSessionEnded(() => {
      if (this.user !== null) this.ended = true;
    });
  }

  async load(): Promise<void> {
    const session = await shelf.or('session', ask(api.GET('/session')));
    this.user = session.user;
    this.firstRun = session.first_run;
    this.demoPeople = session.demo_people;
    this.loaded = true;
  }

  async signIn(body: { email?: string; password?: string; demo?: number }): Promise<void> {
    this.welcome(await ask(api.POST('/session', { body })));
  }

  welcome(user: Schemas['User']): void {
    const other = this.user !== null && this.user.id !== user.id;
    this.user = user;
    this.ended = false;
    this.firstRun = false;
    this.signIns++;
    // another person's page must not stay open under a new name
    if (other) location.assign('/');
  }

  async signOut(): Promise<void> {
    await ask(api.DELETE('/session'));
    await shelf.clear();
    location.assign('/sign-in');
  }

  get theme(): 'paper' | 'dusk' | 'auto' {
    return this.user?.settings.theme ?? 'auto';
  }

  async setTheme(theme: 'paper' | 'dusk' | 'auto'): Promise<void> {
    this.user = await ask(api.PATCH('/session/settings', { body: { theme } }));
  }

  /** Changes settings of one's own. */
  async set(settings: Schemas['User']['settings']): Promise<void> {
    this.user = await ask(api.PATCH('/session/settings', { body: settings }));
  }

  async setDeckFolded(folded: boolean): Promise<void> {
    if (this.user) this.user.settings.deck_folded = folded;
    await ask(api.PATCH('/session/settings', { body: { deck_folded: folded } }));
  }
}

export const session = new Session();
