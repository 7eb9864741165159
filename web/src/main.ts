import { bootstrapApplication } from '@angular/platform-browser';
import { App } from './app/app';
import { appConfig } from './app/app.config';

// The page that is opened first most often is on its way while the server is asked who is signed in.
if (/^\/(links)?$/.test(location.pathname)) void import('./app/links/links-page').catch(() => undefined);

bootstrapApplication(App, appConfig).catch((error: unknown) => console.error(error));
