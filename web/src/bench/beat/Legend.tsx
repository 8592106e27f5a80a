import type { ReactNode } from "react";

/** What the colours and patterns of the beat window stand for. */
export function Legend({ alone, choked }: { alone: boolean; choked: boolean }) {
  const items: [string, ReactNode][] = alone
    ? [
        ["envelope, above", <rect key="k" className="kick-area" width="14" height="8" y="2" />],
        ["frequency, below", <path key="f" className="trace" d="M0,3 C4,3 5,8 14,8" />],
      ]
    : [
        ["kick", <rect key="k" className="kick-area" width="14" height="8" y="2" />],
        ["bass", <rect key="b" className="bass-area" width="14" height="8" y="2" />],
        ["ducking", <path key="d" className="duck-line" d="M0,2 L3,10 L7,10 L14,2" />],
        [
          "collision",
          <rect key="c" fill="url(#hatch)" className="clash" width="14" height="10" y="1" />,
        ],
        ...(choked
          ? [
              ["choked", <path key="x" className="cut" d="M4,2 H9 V11" />] satisfies [
                string,
                ReactNode,
              ],
            ]
          : []),
      ];
  return (
    <span className="legend">
      {items.map(([name, mark]) => (
        <span key={name}>
          <svg width="14" height="12" aria-hidden>
            {mark}
          </svg>
          {name}
        </span>
      ))}
    </span>
  );
}
