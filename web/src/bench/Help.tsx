import { Offcanvas } from "react-bootstrap";

const KEYS: [string, string][] = [
  ["Space", "play and stop"],
  ["K", "the selected hit once; Z, X, C soft, medium, hard"],
  ["P and N", "the part before and after"],
  [", and .", "the tab before and after, in Hits"],
  ["Q … I", "eight variations, or an octave of the key, in Hits"],
  ["↑ and ↓", "a note’s pitch or a stroke’s velocity in the line; Shift: its length"],
  ["+ and −", "keep or discard the focused take"],
  ["1 … 9, 0", "the steps, in order"],
  ["↑, ↓, Enter", "walk and take sounds, in Stock"],
  ["T", "tap the tempo, in Brief"],
  ["H", "hear kick, bass, both, all in turn"],
  ["B", "before or after the ducking"],
  ["L", "low band only"],
  ["S and D", "the selected part alone, or muted"],
  ["M", "mono"],
  ["O", "in the place of the Room, or as made"],
  ["[ and ]", "the bar before and after"],
  ["Ctrl or ⌘ Z", "undo; with Shift redo"],
  ["Ctrl or ⌘ S", "keep a version with a note"],
  ["F", "to the findings"],
  ["+, −, arrows, Home", "zoom and scroll the focused beat window or ladder"],
  ["arrow keys", "move the focused slider or point; Shift for ten steps on a point"],
  ["wheel", "moves the point under the pointer; Shift for ten steps"],
  ["double-click", "brings a slider or a point back to its default"],
  ["Esc", "ends what is being tried, and closes the caution"],
  ["?", "this list"],
];

/** All shortcuts, and the cautions. */
export function Help({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Offcanvas show={show} onHide={onHide} placement="end" aria-labelledby="help-title">
      <Offcanvas.Header closeButton>
        <Offcanvas.Title id="help-title">Shortcuts and cautions</Offcanvas.Title>
      </Offcanvas.Header>
      <Offcanvas.Body>
        <dl className="keys">
          {KEYS.map(([key, what]) => (
            <div key={key}>
              <dt>
                <kbd>{key}</kbd>
              </dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
        <h3>Hearing and loudspeakers</h3>
        <Caution />
      </Offcanvas.Body>
    </Offcanvas>
  );
}

export function Caution() {
  return (
    <>
      <p>
        Low frequencies damage hearing and loudspeakers without sounding loud. Start quietly, raise
        the level slowly, rest your ears. Juglant starts at −18 dB and plays through a limiter, but
        it cannot know your amplifier.
      </p>
      <p className="why">
        Usual limits: 85 dBA for 8 hours at work, half the time for every 3 dB more (NIOSH 98-126);
        80 dBA for 40 hours a week of listening (WHO–ITU H.870). Local rules on noise exposure come
        first, and measuring a room or a club system is work for qualified people.
      </p>
    </>
  );
}
