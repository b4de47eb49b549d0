import type { Schemas } from '../api/client'

type Question = Schemas['PasskeyQuestion']

/** Whether passkeys of a service can be used in this browser, at the address where the console is open. */
export function passkeysHere(origin: string | undefined): boolean {
  return (
    origin === window.location.origin &&
    'PublicKeyCredential' in window &&
    'parseRequestOptionsFromJSON' in PublicKeyCredential
  )
}

// What a browser throws when somebody turns away is said in its own words; ours tell what to do.
async function answered(asked: Promise<Credential | null>): Promise<Record<string, never>> {
  try {
    return ((await asked) as PublicKeyCredential).toJSON() as Record<string, never>
  } catch (e) {
    if (e instanceof DOMException && e.name === 'InvalidStateError')
      throw new Error('This device has a passkey for your account already.')
    throw new Error('No passkey was given; try again, or sign in by your password.')
  }
}

/** Has the browser make a passkey. */
export function made(question: Question) {
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(
    question as unknown as PublicKeyCredentialCreationOptionsJSON,
  )
  return answered(navigator.credentials.create({ publicKey }))
}

/** Has the browser unlock a passkey that it has for this service. */
export function unlocked(question: Question) {
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(
    question as unknown as PublicKeyCredentialRequestOptionsJSON,
  )
  return answered(navigator.credentials.get({ publicKey }))
}
