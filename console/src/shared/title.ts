// What the browser's tab says: the page, and on a leaf the question.
export function entitle(page: string): void {
  document.title = page ? `${page.length > 70 ? `${page.slice(0, 69)}…` : page} – Harquel` : 'Harquel'
}
