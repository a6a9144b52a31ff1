import { computed, effect, Injectable, signal } from '@angular/core';
import { DAY, NIGHT } from '../bench/palette';

const KEY = 'esquisse.night';

/** Day or night, remembered in the browser. */
@Injectable({ providedIn: 'root' })
export class Theme {
  readonly night = signal(localStorage.getItem(KEY) === 'yes');
  readonly palette = computed(() => (this.night() ? NIGHT : DAY));

  constructor() {
    effect(() => {
      document.documentElement.classList.toggle('night', this.night());
      localStorage.setItem(KEY, this.night() ? 'yes' : 'no');
    });
  }

  toggle(): void {
    this.night.update((on) => !on);
  }
}
