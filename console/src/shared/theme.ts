// Light, dark, or what the system says; kept in the browser.
import { ref } from 'vue'

export type Theme = 'system' | 'light' | 'dark'

export const theme = ref<Theme>((localStorage.getItem('theme') as Theme | null) ?? 'system')
/** Whether the page is dark now. */
export const dark = ref(false)
const system = matchMedia('(prefers-color-scheme: dark)')

export function applyTheme(): void {
  const shown = theme.value === 'system' ? (system.matches ? 'dark' : 'light') : theme.value
  document.documentElement.dataset.theme = shown
  dark.value = shown === 'dark'
}

export function chooseTheme(next: Theme): void {
  theme.value = next
  localStorage.setItem('theme', next)
  applyTheme()
}

system.addEventListener('change', applyTheme)
