import { bootstrapApplication } from '@angular/platform-browser';
import { App } from './app/app';
import { appConfig } from './app/app.config';

/** Starts the application; loaded once what must hold before is set. */
export async function start(): Promise<void> {
  await bootstrapApplication(App, appConfig);
}
