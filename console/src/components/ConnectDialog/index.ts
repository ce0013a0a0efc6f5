export { default as ConnectDialog } from './ConnectDialog.vue'
