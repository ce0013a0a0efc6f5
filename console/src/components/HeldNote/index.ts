export { default as HeldNote } from './HeldNote.vue'
