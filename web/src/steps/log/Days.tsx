import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { judging } from "../../api/judging";
import { useDesk } from "../../track/context";
import { told } from "./VersionRow";

/** A day’s work by its numbers before and after. */
export function Days() {
  const { track } = useDesk();
  const [open, setOpen] = useState(false);
  const [wish, setWish] = useState<string | null>(null);
  const days = useQuery({
    queryKey: ["days", track.id, track.revision],
    queryFn: () => judging.days(track.id),
    enabled: open,
  });
  const day = days.data?.find((one) => one === wish) ?? days.data?.[0];
  const numbers = useQuery({
    queryKey: ["day", track.id, track.revision, day],
    queryFn: () => judging.day(track.id, day ?? ""),
    enabled: open && day !== undefined,
  });
  const found = numbers.data;
  return (
    <details className="days" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>A day in numbers</summary>
      {days.data && (
        <Form.Select
          size="sm"
          aria-label="Which day"
          value={day}
          onChange={(event) => setWish(event.target.value)}
        >
          {days.data.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Form.Select>
      )}
      {numbers.error && <p role="alert">{numbers.error.message}</p>}
      {found && (
        <ul>
          {found.after.map((after) => (
            <li key={after.name}>
              {told(
                after,
                found.before.find(({ name }) => name === after.name),
              )}
            </li>
          ))}
          {found.changed.map((sentence) => (
            <li key={sentence} className="why">
              {sentence}
            </li>
          ))}
          {found.changed.length === 0 && <li className="why">Nothing changed on that day.</li>}
        </ul>
      )}
    </details>
  );
}
