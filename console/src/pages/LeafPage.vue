<script setup lang="ts">
// One inquiry as a leaf, read from the top: answer, grounds, trail.
import { computed, ref, watch, watchEffect } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../api/client'
import type { ShownAnswer, TrailEvent } from '../api/types'
import { AskOn } from '../components/AskOn'
import { ChartView, type Wish } from '../components/ChartView'
import { ClarifyNote } from '../components/ClarifyNote'
import { Course } from '../components/Course'
import { DraftAgain } from '../components/DraftAgain'
import { HeldNote } from '../components/HeldNote'
import { KeepExample } from '../components/KeepExample'
import { KeepIn } from '../components/KeepIn'
import { KeepMeaning } from '../components/KeepMeaning'
import { KeptAnswer } from '../components/KeptAnswer'
import { LongText } from '../components/LongText'
import { Notice } from '../components/Notice'
import { ReadBack } from '../components/ReadBack'
import { Restated } from '../components/Restated'
import { ResultGrid } from '../components/ResultGrid'
import { SecondOpinion } from '../components/SecondOpinion'
import { SendOn } from '../components/SendOn'
import { WatchIt } from '../components/WatchIt'
import { ShowIt } from '../components/ShowIt'
import { SideBySide } from '../components/SideBySide'
import { SqlBlock } from '../components/SqlBlock'
import { Thread } from '../components/Thread'
import { useThread } from '../components/Thread/useThread'
import { Stages } from '../components/Stages'
import { TakeAway } from '../components/TakeAway'
import { TrustMark } from '../components/TrustMark'
import { Understood } from '../components/Understood'
import { WholeResult } from '../components/WholeResult'
import { dutyOf } from '../shared/events'
import { figuresIn, instant, marksOf, milliseconds } from '../shared/format'
import { session } from '../shared/session'
import { dark } from '../shared/theme'
import { entitle } from '../shared/title'
import { useDoing } from '../shared/useDoing'
import { useInquiry } from '../shared/useInquiry'
import { say } from '../shared/say'

const props = defineProps<{
  /** The inquiry's id, from the path. */
  id: string
}>()

const { inquiry, events, writing, problem, reconnecting, load, resume } = useInquiry(props.id)
const { lines: thread, load: loadThread } = useThread()
watch(inquiry, (found, before) => { if (found && (!before || found.state !== before.state)) void loadThread(found) })
const threaded = computed(() => (thread.value?.length ?? 0) > 1)
watchEffect(() => { if (inquiry.value) entitle(inquiry.value.standalone_question ?? inquiry.value.question) })
// Somebody else's, which a link leads to: as much of it as is for whoever looks.
const given = ref<ShownAnswer | null>(null)
watch(problem, async (found) => {
  if (found?.status !== 404) return
  const shown = await api.shown(props.id).catch(() => null)
  if (shown) entitle(shown.question)
  given.value = shown
})
const stopping = ref(false)
const { problem: stopProblem, doing: stopCall } = useDoing()
/** How it follows the one before it. */
const linked = computed(() => {
  const choice = inquiry.value?.choice ?? ''
  if (choice === 'whole') return 'follows-whole'
  if (choice === 'again' || choice === 'redraft') return `follows-${choice}`
  return choice.startsWith('instead-') ? 'follows-instead' : 'follows-reply'
})
// A model's words, or our own where somebody prefers them.
const worded = computed(() => {
  const answer = inquiry.value?.answer
  return answer?.worded && answer.worded.plain !== answer.text ? answer.worded : null
})
const plainly = ref(false)
const sentence = computed(() => figuresIn((plainly.value && worded.value?.plain) || (inquiry.value?.answer?.text ?? ''), inquiry.value?.answer?.table))
// Words of the question that a part of how it was understood stands for, while somebody points at it.
const lit = ref<string[]>([])
// Our own row limit is not shown as if somebody had asked for it.
const asRan = ref(false)
// How the picture is drawn by now.
const wish = ref<Wish>({})
const wide = computed(() => (inquiry.value?.answer?.table.columns.length ?? 0) > 5)
// Rows with a picture beside them, and wide ones, stand apart from what they rest on.
const apart = computed(() => wide.value || !!inquiry.value?.answer?.chart)

// The attempt that was answered from, and the places in its draft that something was found about.
const answering = computed(() => {
  const { attempts = [], answer } = inquiry.value ?? {}
  return attempts.findLast((a) => a.run && a.rewritten_sql === answer?.sql) ?? attempts.findLast((a) => a.run)
})
// What another way has settled is in the trail; marked is what the caveats are about.
const doubts = computed(() => {
  const told = new Set(inquiry.value?.answer?.caveats.map((c) => c.rule))
  return marksOf(answering.value?.findings.filter((f) => f.severity !== 'info' && told.has(f.rule)) ?? [])
})

const STAGES = new Set<TrailEvent['kind']>(['accepted', 'delivered', 'briefed', 'prompted', 'replied', 'ruled', 'found', 'planned', 'ran', 'stumbled'])
const stage = computed(() => {
  const last = events.value.at(-1)
  // The question is read while the draft is written; what comes of the reading is seen once there is a draft.
  const drafted = events.value.some((e) => e.kind === 'replied' && !dutyOf(e))
  if (last && dutyOf(last) === 'follow-up') return say('stage-follow-up')
  if (last && dutyOf(last)) return say(drafted ? 'stage-second-way' : 'stage-prompted')
  if (inquiry.value?.choice === 'whole' && last?.kind === 'ruled') return say('stage-writing')
  if (last?.kind === 'found' && !last.facts.findings.length) return say('stage-nothing-doubtful')
  return say(last && STAGES.has(last.kind) ? `stage-${last.kind}` : 'stage-waiting')
})

// The statement of one's own answer, run once more: a new inquiry that says what is different.
const router = useRouter()
const whole = computed(() => inquiry.value?.choice === 'whole')
const mayAsk = computed(() => session.me?.person === inquiry.value?.asked_by && !!session.me?.scopes.includes('ask'))
const mayRepeat = computed(() => !!inquiry.value?.answer && !whole.value && mayAsk.value)
const { busy: repeating, problem: repeatProblem, doing: repeatCall } = useDoing()
/** Figures that are parts of one whole: only of such is what they come to together worth a word. */
const addsUp = computed(() => (inquiry.value?.answer?.chart?.whole ? inquiry.value.answer.chart.figures : []))
/** Where it may be sent on to, by the policy of its source. */
const sendTo = computed(() => {
  const source = mayRepeat.value ? session.sources.find((s) => s.name === inquiry.value?.source) : undefined
  return source && (source.destinations.length || source.recipients.length) ? source : null
})
/** For how many days it may be shown to people without an account; 0: not. */
const showDays = computed(() => (mayRepeat.value && session.sources.find((s) => s.name === inquiry.value?.source)?.shared_days) || 0)
const mayHaveWhole = computed(() => mayRepeat.value && !!inquiry.value?.answer?.table.cut_by)
async function again(choice: 'again' | 'whole'): Promise<void> {
  await repeatCall('again', async () => {
    const made = await api.choose(props.id, choice)
    await router.push({ name: 'leaf', params: { id: made.id } })
  })
}

async function stop(): Promise<void> {
  // It stays so until the end comes.
  stopping.value = true
  stopping.value = await stopCall('stop', () => api.cancel(props.id))
}
</script>

<template>
  <div v-if="given" class="max-w-[56rem] pt-10">
    <p class="mb-4 text-faint">{{ say('given-by', { name: given.asked_by }) }}</p>
    <KeptAnswer :answer="given" :first="25" :picture="api.shownPicture(id, dark)" />
  </div>
  <Notice v-else-if="problem" class="mt-10" :title="problem.message" :hint="problem.hint">
    <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
  </Notice>
  <p v-else-if="!inquiry || !thread" class="beats pt-12 text-faint">{{ say('loading') }}</p>
  <div v-else class="pt-8" :class="threaded ? 'lg:grid lg:grid-cols-[13rem_minmax(0,1fr)] lg:gap-x-8' : ''">
    <Thread v-if="threaded" :lines="thread" :here="inquiry.id" class="max-lg:mb-6" />
    <article>
      <section :aria-label="say('answer')" class="min-h-36" aria-live="polite">
        <LongText class="max-w-[62ch] text-faint" :text="inquiry.standalone_question ?? inquiry.question" :lit="lit" />
        <Restated v-if="inquiry.follows && !inquiry.choice && inquiry.standalone_question" :inquiry="inquiry" :may-ask="mayAsk" />
        <div class="mt-2 flex flex-wrap items-start justify-between gap-x-10 gap-y-3">
          <h1 v-if="inquiry.answer" class="max-w-[46ch] text-2xl leading-snug break-words sm:text-[1.75rem]">
            <template v-for="(part, index) in sentence" :key="index"><strong v-if="part.figure" class="font-bold text-sea tabular-nums">{{ part.text }}</strong><template v-else>{{ part.text }}</template></template>
          </h1>
          <div v-else-if="inquiry.problem" class="max-w-[56ch]">
            <h1 class="text-2xl leading-snug break-words">{{ inquiry.problem.title }}</h1>
            <p class="mt-2 break-words">{{ inquiry.problem.hint }}</p>
            <p v-if="inquiry.problem.policy_line" class="mt-1 text-sm text-faint"><i18n path="decided-by-line" tag="span"><template #line><code class="font-mono">{{ inquiry.problem.policy_line }}</code></template></i18n></p>
          </div>
          <ClarifyNote v-else-if="inquiry.clarify" :inquiry="inquiry" />
          <HeldNote v-else-if="inquiry.state === 'held'" :inquiry="inquiry" @decided="resume" />
          <div v-else>
            <h1 class="beats text-2xl">{{ stage }}</h1>
            <Stages v-if="!whole" :events="events" aria-live="off" />
          </div>
          <div class="flex items-center gap-4">
            <TrustMark :line="inquiry" large />
            <button v-if="inquiry.state !== 'ended' && (session.me?.person === inquiry.asked_by || (inquiry.state !== 'held' && session.me?.scopes.includes('admin')))" type="button" :disabled="stopping" class="rounded-lg border border-line bg-sheet px-4 py-2" @click="stop">
              {{ stopping ? say('stopping') : say('stop') }}
            </button>
          </div>
        </div>
        <p v-if="worded" class="mt-2 text-sm text-faint">
          {{ plainly ? say('in-our-words-now') : say('worded-by', { model: worded.model }) }}
          <button type="button" class="text-sea underline" @click="plainly = !plainly">{{ plainly ? say('as-model-says', { model: worded.model }) : say('in-our-words') }}</button>
        </p>
        <WholeResult v-if="whole" :inquiry="inquiry" />
        <p v-if="inquiry.answer?.remark" class="mt-2 max-w-[62ch] text-lg">{{ inquiry.answer.remark }}</p>
        <ul v-if="inquiry.answer?.caveats.length" class="mt-4 max-w-[62ch] space-y-1 border-l-4 border-signal pl-4">
          <li v-for="caveat in inquiry.answer.caveats" :key="caveat.rule">{{ caveat.message }}</li>
        </ul>
        <Understood
          v-if="inquiry.answer && inquiry.second_opinion?.parts.length" class="mt-4" :inquiry="inquiry.id" :opinion="inquiry.second_opinion"
          :may-ask="session.me?.scopes.includes('ask') ?? false" @light="lit = $event"
        />
        <KeepMeaning
          v-if="inquiry.answer && inquiry.follows && inquiry.choice?.startsWith('instead-') && session.me?.scopes.includes('steward')"
          class="mt-2" :source="inquiry.source" :inquiry="inquiry.id" :follows="inquiry.follows" :choice="inquiry.choice"
        />
        <AskOn v-if="mayAsk && inquiry.state === 'ended' && !whole" class="mt-5" :inquiry="inquiry.id" />
        <p v-if="inquiry.source_why" class="mt-4 text-sm break-words text-faint">{{ inquiry.source_why }}</p>
        <p v-if="inquiry.answer?.fresh" class="mt-4 text-sm text-faint">{{ inquiry.answer.fresh.said }}</p>
        <p class="text-sm text-faint" :class="inquiry.answer?.fresh ? 'mt-1' : 'mt-4'">
          <template v-if="inquiry.answer && inquiry.second_opinion?.agrees">{{ say('same-two-ways') }} · </template>{{ inquiry.source }}<template v-if="inquiry.as_of"> · <i18n path="as-of" tag="span"><template #at><span class="whitespace-nowrap">{{ instant(inquiry.as_of) }}</span></template></i18n></template> · {{ say('asked-by', { person: inquiry.asked_by }) }}<template v-if="inquiry.state === 'ended'"> · {{ milliseconds(inquiry.timings.total_ms ?? 0) }}</template><template v-if="inquiry.hold?.by"> · {{ say(inquiry.hold.approved ? 'released-by' : 'turned-down-by', { person: inquiry.hold.by }) }}</template><template v-if="inquiry.choice && inquiry.follows"> · {{ say(linked) }} <RouterLink :to="{ name: 'leaf', params: { id: inquiry.follows } }" class="text-sea underline">{{ say(`link-${linked}`) }}</RouterLink></template>
          <template v-if="answering?.draft?.reused"> · <i18n path="draft-reused" tag="span"><template #before><RouterLink :to="{ name: 'leaf', params: { id: answering.draft.reused } }" class="text-sea underline">{{ say('draft-reused-before') }}</RouterLink></template></i18n></template>
          <template v-if="mayRepeat"> · <button type="button" class="text-sea underline" :disabled="!!repeating" @click="again('again')">{{ repeating ? say('running') : say('run-again') }}</button></template>
        </p>
        <Notice v-if="repeatProblem" class="mt-3" :title="repeatProblem.message" :hint="repeatProblem.hint" />
        <Notice v-if="stopProblem" class="mt-3" :title="stopProblem.message" :hint="stopProblem.hint" />
        <Notice v-if="reconnecting && inquiry.state !== 'ended'" class="mt-3" :title="say('connection-lost')" :hint="say('connection-lost-hint')" />
      </section>

      <SideBySide v-if="inquiry.redraft && inquiry.state === 'ended'" :inquiry="inquiry" />

      <section v-if="inquiry.answer && apart" aria-labelledby="result" class="mt-8">
        <h2 id="result" class="mb-3 border-b border-line pb-1 text-sm font-semibold text-faint">{{ say('result') }}</h2>
        <div class="grid items-start gap-x-6 gap-y-8" :class="wide ? '' : 'lg:grid-cols-2'">
          <ChartView
            v-if="inquiry.answer.chart && inquiry.answer.table.rows.length" :inquiry="inquiry.id" :chart="inquiry.answer.chart" :said="inquiry.answer.chart_note"
            :rows="inquiry.answer.table.row_count" @wished="wish = $event"
          />
          <ResultGrid :table="inquiry.answer.table" :first="inquiry.answer.chart ? 12 : undefined" :of="inquiry.answer.delivery?.rows" :adds-up="addsUp" class="min-w-0">
            <div v-if="!whole" class="contents">
              <TakeAway :inquiry="inquiry.id" :wish="inquiry.answer.chart ? wish : null" :more="mayHaveWhole" @whole="again('whole')" />
              <KeepIn v-if="mayRepeat" :inquiry="inquiry.id" />
              <SendOn v-if="sendTo" :inquiry="inquiry.id" :to="sendTo.destinations" :recipients="sendTo.recipients" />
              <ShowIt v-if="showDays" :of="{ inquiry: inquiry.id }" :most="showDays" />
              <WatchIt v-if="sendTo" :inquiry="inquiry.id" :to="sendTo.destinations" :recipients="sendTo.recipients" />
            </div>
          </ResultGrid>
        </div>
      </section>

      <section v-if="inquiry.answer" aria-labelledby="grounds" class="mt-10">
        <h2 id="grounds" class="mb-3 border-b border-line pb-1 text-sm font-semibold text-faint">{{ say('grounds') }}</h2>
        <p v-if="inquiry.answer.chart_note && !inquiry.answer.chart" class="mb-3 text-sm text-faint">{{ inquiry.answer.chart_note }}</p>
        <div class="grid items-start gap-x-6 gap-y-4 lg:grid-cols-2">
          <ReadBack v-if="apart" :answer="inquiry.answer" class="min-w-0" />
          <ResultGrid v-else :table="inquiry.answer.table" :of="inquiry.answer.delivery?.rows" class="min-w-0">
            <div v-if="!whole" class="contents">
              <TakeAway :inquiry="inquiry.id" :wish="null" :more="mayHaveWhole" @whole="again('whole')" />
              <KeepIn v-if="mayRepeat" :inquiry="inquiry.id" />
              <SendOn v-if="sendTo" :inquiry="inquiry.id" :to="sendTo.destinations" :recipients="sendTo.recipients" />
              <ShowIt v-if="showDays" :of="{ inquiry: inquiry.id }" :most="showDays" />
              <WatchIt v-if="sendTo" :inquiry="inquiry.id" :to="sendTo.destinations" :recipients="sendTo.recipients" />
            </div>
          </ResultGrid>
          <div class="min-w-0">
            <ReadBack v-if="!apart" :answer="inquiry.answer" class="mb-4" />
            <template v-if="doubts.length">
              <SqlBlock :sql="answering!.draft!.sql" :marks="doubts" />
              <p class="mt-1 text-sm text-faint">{{ say('underlined') }}</p>
            </template>
            <template v-else>
              <SqlBlock :sql="asRan || !inquiry.answer.sql_shown ? inquiry.answer.sql : inquiry.answer.sql_shown" />
              <button v-if="inquiry.answer.sql_shown" type="button" class="mt-1 text-sm text-sea underline" @click="asRan = !asRan">
                {{ asRan ? say('without-limit') : say('with-limit') }}
              </button>
            </template>
            <p v-if="inquiry.answer.explanation" class="mt-3 text-sm text-faint">
              {{ say('model-on-draft', { text: inquiry.answer.explanation }) }}
            </p>
            <KeepExample v-if="session.me?.scopes.includes('steward')" class="mt-3" :source="inquiry.source" :inquiry="inquiry.id" />
            <DraftAgain v-if="mayRepeat && session.me?.scopes.includes('steward')" class="mt-3" :inquiry="inquiry.id" :own="answering?.draft?.template.startsWith('own') ?? false" />
          </div>
        </div>
        <SecondOpinion v-if="inquiry.second_opinion" :opinion="inquiry.second_opinion" />
      </section>

      <section aria-labelledby="trail" class="mt-10">
        <h2 id="trail" class="mb-3 border-b border-line pb-1 text-sm font-semibold text-faint">{{ say('trail') }}</h2>
        <Course :events="events" :inquiry="inquiry" :writing="writing" />
      </section>
    </article>
  </div>
</template>
