// Light, dark, or what the system says; kept in the browser.
import { ref } from 'vue'

export type Theme = 'system' | 'light' | 'dark'

export const theme = ref<Theme>((localStorage.getItem('theme') as Theme | null) ?? 'system')
const dark = matchMedia('(prefers-color-scheme: dark)')

export function applyTheme(): void {
  const shown = theme.value === 'system' ? (dark.matches ? 'dark' : 'light') : theme.value
  document.documentElement.dataset.theme = shown
}

export function chooseTheme(next: Theme): void {
  theme.value = next
  localStorage.setItem('theme', next)
  applyTheme()
}

dark.addEventListener('change', applyTheme)
