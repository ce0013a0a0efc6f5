export { default as MailForm } from './MailForm.vue'
