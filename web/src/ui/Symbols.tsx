/** A symbol or formula as it is set: what follows an underscore stands below the line, what follows a ^ above it. */
export function Symbols({ children: text }: { children: string }) {
  const parts = text.split(/(\p{L}+_[\p{L}\d.]+(?:_[\p{L}\d]+)*|\^(?:[\p{L}\d.]+|\([^()]*\)))/u);
  return parts.map((part, i) => {
    if (i % 2 === 0) return part;
    const [name = "", ...below] = part.split("_");
    return part.startsWith("^") ? (
      <sup key={i}>{part.slice(1)}</sup>
    ) : (
      <span key={i}>
        {name}
        <sub>{below.join(" ")}</sub>
      </span>
    );
  });
}
