import '@fontsource-variable/schibsted-grotesk'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import 'vuetify/styles'
import './styles/base.css'
import { createApp } from 'vue'
import App from './App.vue'
import { useMessages } from './features/messages/useMessages'
import { router } from './router'
import { vuetify } from './theme'

const app = createApp(App).use(router).use(vuetify)
// A fault of ours is said in the page, and stands in the console with its place.
app.config.errorHandler = (error) => {
  useMessages().complain(error)
  reportError(error)
}
app.mount('#app')
