import './no-eval';
import '@fontsource-variable/hanken-grotesk/wght.css';
import '@fontsource-variable/bricolage-grotesque/wght.css';
import '@fontsource-variable/spline-sans-mono/wght.css';
import '@mantine/core/styles.css';
import './theme/tokens.css';
import './theme/mantine.css';
import { ColorSchemeScript, mantineHtmlProps, MantineProvider } from '@mantine/core';
import { setNonce } from 'get-nonce';
import { createContext, type ReactNode, useContext } from 'react';
import { isRouteErrorResponse, Links, Meta, Outlet, Scripts, ScrollRestoration, useRouteError } from 'react-router';
import { takeTokenFromAddress } from '~/remote';
import { FailurePage } from './parts/FailurePage';
import { theme } from './theme/theme';
import { Opening } from './parts/Opening';

/** The nonce that the page's own scripts carry; entry.server.tsx makes a fresh one for each page. */
export const NonceContext = createContext<string | undefined>(undefined);

/** The nonce that this page came with, for styles that are put in later. A script knows its own; its attribute is hidden. */
const nonceOfPage = (): string | undefined => document.querySelector<HTMLScriptElement>('script[nonce]')?.nonce;

// Styles of dialogs, which hold the page still, are put in by a library that asks here.
if (typeof document !== 'undefined') {
  setNonce(nonceOfPage() ?? '');
  takeTokenFromAddress();
}

export function Layout({ children }: { children: ReactNode }) {
  const nonce = useContext(NonceContext) ?? nonceOfPage();
  return (
    <html lang="en" {...mantineHtmlProps}>
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>Regressum</title>
        <link rel="icon" href="/mark.svg" type="image/svg+xml" />
        <Meta />
        <Links />
        <ColorSchemeScript defaultColorScheme="auto" nonce={nonce} />
      </head>
      <body>
        <MantineProvider theme={theme} defaultColorScheme="auto" getStyleNonce={() => nonce ?? ''}>
          {children}
        </MantineProvider>
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  );
}

export default function App() {
  return <Outlet />;
}

export function HydrateFallback() {
  return <Opening what="Regressum" />;
}

export function ErrorBoundary() {
  const error = useRouteError();
  return <FailurePage error={isRouteErrorResponse(error) ? new Error(`${error.status} ${error.statusText}`) : error} />;
}
