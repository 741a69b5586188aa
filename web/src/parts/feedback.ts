const SOUND = "tight.sound";

export const soundOn = (): boolean => localStorage.getItem(SOUND) === "on";

export const setSound = (on: boolean): void => localStorage.setItem(SOUND, on ? "on" : "off");

let audio: AudioContext | null = null;

/** A recorded pull is felt, and heard where that is wanted. */
export function felt(): void {
  navigator.vibrate?.(40);
  if (!soundOn()) return;
  audio ??= new AudioContext();
  const tone = audio.createOscillator();
  const level = audio.createGain();
  tone.frequency.value = 660;
  level.gain.setValueAtTime(0.2, audio.currentTime);
  level.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + 0.12);
  tone.connect(level).connect(audio.destination);
  tone.start();
  tone.stop(audio.currentTime + 0.13);
}
