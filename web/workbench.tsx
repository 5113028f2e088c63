/** The frame around all areas: theme, cache of reads, and addresses. */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { App, ConfigProvider } from 'antd'
import { useEffect } from 'react'
import { createBrowserRouter, Navigate, Outlet, useLocation } from 'react-router'
import { RouterProvider } from 'react-router/dom'
import { ApiProblem } from './api/client.ts'
import { SignIn, SignInByAddress } from './areas/sign-in/sign-in.tsx'
import { Crash } from './shared/frame/crash.tsx'
import { Palette } from './shared/palette/palette.tsx'
import { useLastAddresses } from './shared/frame/last-address.ts'
import { useSession } from './shared/frame/session.ts'
import { antdTheme, useTheme } from './shared/frame/theme.ts'
import { TopLine } from './shared/frame/top-line.tsx'
import { words } from './shared/words/words.ts'

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => count < 2 && !(error instanceof ApiProblem && error.details.status >= 400),
      refetchOnWindowFocus: false,
    },
  },
})

/** Everything except signing in needs the key. */
function SignedIn() {
  const session = useSession()
  const { pathname, search } = useLocation()
  const noteAddress = useLastAddresses((state) => state.note)
  useEffect(() => noteAddress(pathname, search), [pathname, search, noteAddress])
  if (session.error instanceof ApiProblem && session.error.needsSignIn) return <SignIn />
  if (session.error)
    return (
      <Crash
        title={session.error.message}
        detail={session.error instanceof ApiProblem ? session.error.details.detail : undefined}
        again={() => void session.refetch()}
      />
    )
  if (!session.data)
    return (
      <div className="quiet" role="status">
        {words.frame.opening}
      </div>
    )
  return (
    <>
      <TopLine session={session.data} />
      <Outlet />
      <Palette />
    </>
  )
}

const router = createBrowserRouter([
  { path: '/sign-in', Component: SignInByAddress },
  {
    path: '/',
    Component: SignedIn,
    ErrorBoundary: Crash,
    HydrateFallback: () => (
      <div className="quiet" role="status">
        {words.frame.opening}
      </div>
    ),
    children: [
      { index: true, element: <Navigate to="/walk" replace /> },
      {
        path: 'walk',
        lazy: async () => ({ Component: (await import('./areas/walk/walk-screen.tsx')).WalkScreen }),
      },
      {
        path: 'routes',
        lazy: async () => ({ Component: (await import('./areas/routes/routes-screen.tsx')).RoutesScreen }),
      },
      {
        path: 'checks',
        lazy: async () => ({ Component: (await import('./areas/checks/checks-screen.tsx')).ChecksScreen }),
      },
      {
        path: 'changes',
        lazy: async () => ({ Component: (await import('./areas/changes/changes-screen.tsx')).ChangesScreen }),
      },
      {
        path: 'comments',
        lazy: async () => ({
          Component: (await import('./areas/comments/comments-screen.tsx')).CommentsScreen,
        }),
      },
      {
        path: 'content/:kind?',
        lazy: async () => ({ Component: (await import('./areas/content/content-screen.tsx')).ContentScreen }),
      },
      {
        path: 'queries',
        lazy: async () => ({ Component: (await import('./areas/queries/queries-screen.tsx')).QueriesScreen }),
      },
      {
        path: 'templates',
        lazy: async () => ({
          Component: (await import('./areas/templates/templates-screen.tsx')).TemplatesScreen,
        }),
      },
      {
        path: 'cache',
        lazy: async () => ({ Component: (await import('./areas/cache/cache-screen.tsx')).CacheScreen }),
      },
      { path: '*', element: <Crash title={words.frame.notFound} /> },
    ],
  },
])

export function Workbench() {
  const theme = useTheme((state) => state.shown)
  useEffect(() => {
    document.documentElement.dataset['theme'] = theme
  }, [theme])
  return (
    <ConfigProvider theme={antdTheme(theme)} button={{ autoInsertSpace: false }} wave={{ disabled: true }}>
      <App component={false}>
        <QueryClientProvider client={client}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </App>
    </ConfigProvider>
  )
}
