// The page of the simulated chat: whoever one is, what was said where they are, and a line to say something.
const $ = (id) => document.getElementById(id)
const state = { person: 'odo', place: 'harbour', thread: null, people: {}, names: {}, drawn: '' }

async function call(path, body) {
  const response = await fetch(path, body && { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  if (!response.ok) throw new Error(`The chat answered ${response.status}.`)
  return response.json()
}

function made(tag, more = {}, ...inside) {
  const found = Object.assign(document.createElement(tag), more)
  found.append(...inside)
  return found
}

async function look() {
  const { people, places } = await call(`/people?person=${state.person}`)
  state.people = people
  state.names = places
  if (!(state.place in places)) state.place = `direct-${state.person}`
  $('person').replaceChildren(...Object.entries(people).map(([id, name]) => made('option', { value: id, textContent: name, selected: id === state.person })))
  $('places').replaceChildren(
    ...Object.entries(places).map(([id, name]) => {
      const button = made('button', { type: 'button', textContent: id.startsWith('direct-') ? name : `# ${name}`, onclick: () => go(id) })
      if (id === state.place) button.setAttribute('aria-current', 'page')
      return button
    }),
  )
  await draw()
}

async function draw() {
  const { messages } = await call(`/messages?place=${state.place}&person=${state.person}`)
  // What has not changed keeps its focus and its place.
  const drawn = JSON.stringify([state.person, state.place, messages])
  if (drawn === state.drawn) return
  state.drawn = drawn
  const order = [...new Set(messages.map((one) => one.thread))].flatMap((thread) => messages.filter((one) => one.thread === thread))
  const list = $('messages')
  list.dataset.of = `${state.person} ${state.names[state.place]}`
  const atEnd = list.scrollHeight - list.scrollTop - list.clientHeight < 200
  list.replaceChildren(...(order.length ? order.map(line) : [made('p', { className: 'none', textContent: 'Nothing was said here yet. @harquel is heard everywhere, and alone under Harquel.' })]))
  const last = list.querySelector('[data-newest]')
  const end = () => atEnd && last?.isConnected && last.scrollIntoView({ block: 'end' })
  for (const image of list.querySelectorAll('img')) image.onload = end
  end()
}

function line(one, index, all) {
  const service = one.author === 'harquel'
  const name = service ? 'Harquel' : state.people[one.author]
  const newest = Math.max(...all.map((other) => other.number)) === one.number
  const item = made('li', { className: `${one.author === state.person ? 'own' : ''} ${service ? 'service' : ''} ${one.thread === one.id ? '' : 'reply'}` })
  if (newest) item.dataset.newest = ''
  item.append(made('small', {}, name, ' '), made('button', { type: 'button', className: 'turn', textContent: 'Reply', onclick: () => reply(one) }), made('p', { textContent: one.text }))
  if (one.table) item.append(made('pre', { textContent: one.table, tabIndex: 0 }))
  if (one.picture) item.append(made('img', { src: `data:image/png;base64,${one.picture}`, alt: one.text }))
  if (one.choices.length) item.append(made('div', { className: 'choices' }, ...one.choices.map((c) => made('button', { type: 'button', textContent: c.label, onclick: () => press(one, c.value) }))))
  if (one.link) item.append(made('a', { href: one.link, textContent: 'The whole of it', rel: 'noreferrer', target: '_blank' }))
  if (one.note) item.append(made('p', { className: 'wrong', textContent: one.note }))
  return item
}

function reply(one) {
  state.thread = one?.thread ?? null
  $('replying').hidden = !one
  if (one) $('replying').firstElementChild.textContent = `In the thread “${one.text.slice(0, 60)}”.`
  $('text').focus()
}

function go(place) {
  state.place = place
  reply(null)
  look()
}

async function doing(work) {
  $('fault').textContent = ''
  try {
    await work()
  } catch (error) {
    $('fault').textContent = error.message
  }
}

const press = (one, value) => doing(() => call('/press', { person: state.person, place: state.place, message: one.id, value }))

$('person').onchange = (event) => {
  state.person = event.target.value
  if (state.place.startsWith('direct-')) state.place = `direct-${state.person}`
  reply(null)
  look()
}
$('anew').onclick = () => reply(null)
$('compose').onsubmit = (event) => {
  event.preventDefault()
  const text = $('text').value
  if (!text.trim()) return
  doing(async () => {
    await call('/say', { person: state.person, place: state.place, thread: state.thread, text })
    $('text').value = ''
  })
}

await look()
new EventSource('/changes').onmessage = () => draw()
