import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { BrowserRouter } from 'react-router'
import { Toaster } from 'sonner'
import { remember } from '../state/remembered'
import { store } from '../state/store'
import { App } from './App'
import './styles.css'

if (import.meta.env.DEV) remember('check answers', true)

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <BrowserRouter>
        <App />
        <Toaster duration={9000} position="bottom-right" toastOptions={{ className: 'muscovite-toast' }} />
      </BrowserRouter>
    </Provider>
  </StrictMode>,
)
