import { hand, type PracticePhone } from "./practice.ts";

/** The phone as it lies there: a slab with a screen. What it shows can be tapped, where its condition lets it answer. */
export function DrawnPhone({ phone }: { phone: PracticePhone }) {
  const { screen } = phone;
  const digits = screen.buttons.length === 10;
  return (
    <div className="mx-auto flex h-[23rem] w-52 flex-col rounded-[1.8rem] bg-[#20242b] p-2.5 shadow-lift">
      <section
        className={`flex min-h-0 flex-1 flex-col overflow-hidden rounded-[1.2rem] p-3 ${screen.lit ? "bg-[#fbf7ec] text-[#20242b]" : "bg-black text-[#8d929b]"}`}
        aria-label="Screen of the practice phone"
      >
        {screen.lit ? (
          <>
            <p className="flex justify-between text-xs" aria-hidden="true">
              <span>14:06</span>
              <span>{phone.battery} %</span>
            </p>
            <h3 className="mt-3 text-center leading-5 font-bold">{screen.title}</h3>
            {screen.lines.map((line) => (
              <p
                key={line}
                className={`mt-1 text-center text-[13px] break-words ${/^([0-9A-F]{2}:)+/.test(line) ? "font-mono text-[11px]" : ""}`}
              >
                {line}
              </p>
            ))}
            <div className={`mt-auto grid gap-1.5 ${digits ? "grid-cols-3" : "grid-cols-1"}`}>
              {screen.buttons.map(({ id, label }) => (
                <button
                  key={id}
                  type="button"
                  className={`min-h-8 cursor-pointer rounded-lg border border-[#b9ad96] bg-white px-2 py-1 text-[13px] leading-4 ${digits && id === "0" ? "col-start-2" : ""}`}
                  onClick={() => void hand(phone.id, { do: "tap", button: id })}
                >
                  {label}
                </button>
              ))}
            </div>
          </>
        ) : (
          <p className="m-auto text-xs">dark</p>
        )}
      </section>
      {phone.card.keysAt.home && <span className="mx-auto mt-2 h-4 w-12 rounded-full border-2 border-[#6b717c]" aria-hidden="true" />}
    </div>
  );
}
