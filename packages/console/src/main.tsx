import '@fontsource-variable/source-serif-4';
import '@fontsource-variable/source-serif-4/wght-italic.css';
import '@fontsource-variable/source-sans-3';
import '@fontsource-variable/source-code-pro';
import '@ephoros/react/table.css';
import './styles.css';
import { Boundary, FailureNote } from '@ephoros/react';
import { setNonce } from 'get-nonce';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './app.tsx';
import { DeskProvider } from './shell/desk.tsx';
import { CallerGate } from './sign-in/caller.tsx';

const nonce = document.querySelector<HTMLMetaElement>('meta[name=style-nonce]')?.content ?? '';
if (nonce !== '') setNonce(nonce);
const desk = document.getElementById('desk');
if (desk === null) throw new Error('the page has no desk');
createRoot(desk).render(
  <StrictMode>
    <Boundary instead={(error, again) => <FailureNote error={error} retry={again} />}>
      <DeskProvider>
        <CallerGate>
          <App />
        </CallerGate>
      </DeskProvider>
    </Boundary>
  </StrictMode>,
);
