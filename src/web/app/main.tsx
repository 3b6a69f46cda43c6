import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { BrowserRouter } from 'react-router'
import { speakOurWords } from '#shared/schema-words'
import { remember } from '../state/remembered'
import { store } from '../state/store'
import { App } from './App'
import { Messages } from './Messages'
import './styles.css'

speakOurWords()
if (import.meta.env.DEV) remember('check answers', true)

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <BrowserRouter>
        <App />
        <Messages />
      </BrowserRouter>
    </Provider>
  </StrictMode>,
)
