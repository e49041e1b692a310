import '@fontsource-variable/figtree'
import '@fontsource-variable/spline-sans-mono'
import { Box, CssBaseline } from '@mui/material'
import { ThemeProvider } from '@mui/material/styles'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { createBrowserRouter, Outlet, RouterProvider, useRouteError } from 'react-router'
import { Notice } from './frame/Notice.tsx'
import { ShotPage } from './pages/ShotPage.tsx'
import { ShotsPage } from './pages/ShotsPage.tsx'
import { store } from './store/index.ts'
import { theme } from './theme.ts'

function Root() {
  return (
    <>
      <Outlet />
      <Notice />
    </>
  )
}

/** What is shown when a page fails; edits up to then are saved. */
function Failed() {
  const error = useRouteError() as Error
  return (
    <Box sx={{ p: 6 }}>
      <h1>This page has failed</h1>
      <p>{error.message}</p>
      <p>
        Your edits up to now are saved. <a href="/">Go to all shots</a>
      </p>
    </Box>
  )
}

const router = createBrowserRouter([
  {
    element: <Root />,
    errorElement: <Failed />,
    children: [
      { path: '/', element: <ShotsPage /> },
      { path: '/shots/:id/:step?', element: <ShotPage /> },
      { path: '*', element: <ShotsPage /> },
    ],
  },
])

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <ThemeProvider theme={theme} defaultMode="dark">
        <CssBaseline />
        <RouterProvider router={router} />
      </ThemeProvider>
    </Provider>
  </StrictMode>,
)
