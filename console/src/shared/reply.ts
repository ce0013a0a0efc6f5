// What a model wrote, for people: the SQL out of its JSON, whole or as far as it has come.

/** The SQL of a reply, empty where the model says that it cannot, and its words; null where the reply is no JSON of ours. */
export function readReply(text: string): { sql: string; explanation: string } | null {
  const inside = /\{[\s\S]*\}/.exec(text)?.[0]
  if (!inside) return null
  try {
    const found: unknown = JSON.parse(inside)
    if (typeof found !== 'object' || found === null) return null
    const said = found as Record<string, unknown>
    const words = [said.explanation, said.why].find((w) => typeof w === 'string')
    if (typeof said.sql === 'string') return { sql: said.sql, explanation: words ?? '' }
    return 'cannot' in said && words ? { sql: '', explanation: words } : null
  } catch {
    return null
  }
}

const ESCAPED: Record<string, string> = { n: '\n', t: '\t', r: '', b: '', f: '' }

/** As much of the SQL as has arrived; the text itself where it is no JSON. */
export function arriving(text: string): string {
  if (!/^\s*(?:```\w*\s*)?\{/.test(text)) return text
  const begun = /"sql"\s*:\s*"((?:[^"\\]|\\[\s\S])*)/.exec(text)
  if (!begun) return ''
  return begun[1]!.replace(/\\(?:u([0-9a-fA-F]{4})|([\s\S]))/g, (_, code: string | undefined, sign: string) =>
    code ? String.fromCharCode(parseInt(code, 16)) : (ESCAPED[sign] ?? sign),
  )
}
