export { default as TableNotes } from './TableNotes.vue'
