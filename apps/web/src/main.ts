import './strict';

/** What a person reads in place of the application when it cannot run as it was served. */
function explain(): void {
  const told = document.createElement('main');
  told.className = 'explained';
  told.setAttribute('role', 'alert');
  const add = (name: string, text: string): void => {
    const element = document.createElement(name);
    element.textContent = text;
    told.append(element);
  };
  add('h1', 'Esquisse cannot calculate here');
  add('p', 'The page was served without the headers that let its threads share memory, so nothing can be calculated.');
  add('p', 'Start it with "npm start" and open http://localhost:4600, or have the server send with every file:');
  add('pre', 'Cross-Origin-Opener-Policy: same-origin\nCross-Origin-Embedder-Policy: require-corp');
  add(
    'p',
    'Shared memory also wants https, or an address of this machine itself. Jobs that are kept in this browser stay as they are.',
  );
  document.querySelector('esq-root')?.replaceWith(told);
}

if (globalThis.crossOriginIsolated)
  import('./start').then(({ start }) => start()).catch((error: unknown) => console.error(error));
else explain();
