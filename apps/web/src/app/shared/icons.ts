import { inject, provideEnvironmentInitializer, type EnvironmentProviders } from '@angular/core';
import { MatIconRegistry } from '@angular/material/icon';
import { DomSanitizer } from '@angular/platform-browser';
import add from '@material-symbols/svg-400/outlined/add.svg';
import chevronLeft from '@material-symbols/svg-400/outlined/chevron_left.svg';
import chevronRight from '@material-symbols/svg-400/outlined/chevron_right.svg';
import close from '@material-symbols/svg-400/outlined/close.svg';
import day from '@material-symbols/svg-400/outlined/light_mode.svg';
import fit from '@material-symbols/svg-400/outlined/fit_screen.svg';
import keep from '@material-symbols/svg-400/outlined/keep.svg';
import keyboard from '@material-symbols/svg-400/outlined/keyboard.svg';
import night from '@material-symbols/svg-400/outlined/dark_mode.svg';
import pause from '@material-symbols/svg-400/outlined/pause.svg';
import play from '@material-symbols/svg-400/outlined/play_arrow.svg';
import redo from '@material-symbols/svg-400/outlined/redo.svg';
import remove from '@material-symbols/svg-400/outlined/remove.svg';
import undo from '@material-symbols/svg-400/outlined/undo.svg';

const ICONS = {
  add,
  'chevron-left': chevronLeft,
  'chevron-right': chevronRight,
  close,
  day,
  fit,
  keep,
  keyboard,
  night,
  pause,
  play,
  redo,
  remove,
  undo,
};

/** The few drawn signs of general actions; cutters, patterns and lenses are drawings of our own. */
export function provideIcons(): EnvironmentProviders {
  return provideEnvironmentInitializer(() => {
    const registry = inject(MatIconRegistry);
    const sanitizer = inject(DomSanitizer);
    for (const [name, drawing] of Object.entries(ICONS))
      registry.addSvgIconLiteral(name, sanitizer.bypassSecurityTrustHtml(drawing));
  });
}
