export { default as ClarifyNote } from './ClarifyNote.vue'
