import '@fontsource-variable/hanken-grotesk/wght.css';
import '@fontsource-variable/bricolage-grotesque/wght.css';
import '@fontsource-variable/spline-sans-mono/wght.css';
import '@mantine/core/styles.css';
import './theme/tokens.css';
import './theme/mantine.css';
import { ColorSchemeScript, mantineHtmlProps, MantineProvider } from '@mantine/core';
import { createContext, type ReactNode, useContext } from 'react';
import { isRouteErrorResponse, Links, Meta, Outlet, Scripts, ScrollRestoration, useRouteError } from 'react-router';
import { FailurePage } from './parts/FailurePage';
import { theme } from './theme/theme';

/** The nonce that the page's own scripts carry; entry.server.tsx makes a fresh one for each page. */
export const NonceContext = createContext<string | undefined>(undefined);

export function Layout({ children }: { children: ReactNode }) {
  const nonce = useContext(NonceContext);
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
        <MantineProvider theme={theme} defaultColorScheme="auto">
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
  return <p style={{ padding: 24 }}>Opening Regressum</p>;
}

export function ErrorBoundary() {
  const error = useRouteError();
  return <FailurePage error={isRouteErrorResponse(error) ? new Error(`${error.status} ${error.statusText}`) : error} />;
}
