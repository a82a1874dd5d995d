/** Vuetify set to our look (shared with styles/base.css): flat, square, quiet, no ripples, no capitals. */
import { createVuetify } from 'vuetify'

export const vuetify = createVuetify({
  theme: {
    defaultTheme: 'chalk',
    themes: {
      chalk: {
        dark: false,
        colors: {
          background: '#efece4',
          surface: '#faf8f3',
          primary: '#a8420d',
          secondary: '#5a554a',
          error: '#7e1f1f',
          success: '#4a6a2c',
          'on-background': '#23211d',
          'on-surface': '#23211d',
        },
      },
    },
  },
  defaults: {
    global: { ripple: false, elevation: 0 },
    VMenu: { transition: false, offset: 4 },
    VDialog: { transition: false, scrim: '#23211d', maxWidth: 560 },
    VSnackbar: { transition: false, rounded: 0, timeout: 8000 },
  },
})
