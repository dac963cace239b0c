/** One question with its answers as chips: one of them, or several. Pressing a chosen one again takes the answer back. */
export function Choice<T extends string>({
  question,
  answers,
  chosen,
  onChange,
}: {
  question: string;
  answers: readonly T[];
  chosen: readonly T[];
  onChange: (pressed: T, chosen: boolean) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-bold">{question}</legend>
      <div className="flex flex-wrap gap-1.5">
        {answers.map((answer) => (
          <button
            key={answer}
            type="button"
            className="chip rounded-field"
            aria-pressed={chosen.includes(answer)}
            onClick={() => onChange(answer, !chosen.includes(answer))}
          >
            {answer}
          </button>
        ))}
      </div>
    </fieldset>
  );
}
