import { seeded } from "./random.ts";

/** Pictures of the puppet theatre's tour, drawn as SVG: scenes on stage, the wagon on the road, posters. */
export type Scene = "stage" | "road" | "poster" | "workshop";

const SKIES = [
  ["#2b2450", "#6a4a7c", "#e9a36b"],
  ["#123a46", "#2d6f72", "#cfe0c3"],
  ["#e8c98a", "#f3dfb5", "#f8efd9"],
  ["#8fb8d0", "#c8dfe6", "#f1f0df"],
  ["#1c2340", "#37457a", "#9a8fb8"],
  ["#5a2d3c", "#b05a4a", "#f0b46c"],
];
const CLOTHES = ["#d99a2b", "#5d3d78", "#2f6a45", "#7a2a2f", "#2a6078", "#c2543a", "#c9bda8"];
const HAIR = ["#2a1d1a", "#d9a94a", "#7a3b20", "#26425a", "#e6e0d2"];
const SKIN = ["#e9c9a4", "#c98f62", "#8a5a3c", "#f0d8bd"];
const TITLES = ["Lantern", "Moonhook", "The Fox Wedding", "Act II", "Salt & Thread", "The Ferryman", "Nine Crows"];

type Random = () => number;
const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)];

function sky(random: Random): string {
  const [top, middle, low] = pick(random, SKIES);
  const x = 150 + random() * 700;
  const y = 90 + random() * 160;
  const radius = 34 + random() * 40;
  const stars = Array.from(
    { length: 26 },
    () =>
      `<circle cx="${random() * 1024}" cy="${random() * 330}" r="${0.8 + random() * 1.6}" fill="#fff6dc" opacity="${0.3 + random() * 0.6}"/>`,
  ).join("");
  return `<defs><linearGradient id="sky" x2="0" y2="1"><stop stop-color="${top}"/><stop offset=".6" stop-color="${middle}"/><stop offset="1" stop-color="${low}"/></linearGradient></defs>
  <rect width="1024" height="768" fill="url(#sky)"/>${stars}<circle cx="${x}" cy="${y}" r="${radius * 2.4}" fill="#fff3cf" opacity=".13"/><circle cx="${x}" cy="${y}" r="${radius}" fill="#f7ecc8"/>`;
}

function hills(random: Random): string {
  const hill = (base: number, colour: string) => {
    const crest = [0, 256, 512, 768, 1024].map((x) => ({ x, y: Math.round(base + (random() - 0.5) * 90) }));
    const waves = crest
      .slice(1)
      .map(({ x, y }) => `S${x - 110} ${y} ${x} ${y}`)
      .join(" ");
    return `<path d="M0 768 L0 ${crest[0].y} ${waves} V768Z" fill="${colour}"/>`;
  };
  return (
    hill(540, pick(random, ["#3c3350", "#3b5348", "#6b5a45", "#2f4458"])) +
    hill(620, pick(random, ["#26233c", "#24382f", "#43382a", "#1e2d3e"]))
  );
}

function puppet(random: Random, x: number, ground: number, scale: number): string {
  const clothes = pick(random, CLOTHES);
  const skin = pick(random, SKIN);
  const hair = pick(random, HAIR);
  const swing = (random() - 0.5) * 46;
  const lift = (random() - 0.3) * 40;
  const strings = [-46, 0, 46]
    .map(
      (dx) =>
        `<path d="M${dx * 0.5} -420 L${dx} ${dx === 0 ? -176 : -88 - Math.abs(lift)}" stroke="#f3ead2" stroke-width="1.4" opacity=".75"/>`,
    )
    .join("");
  return `<g transform="translate(${x} ${ground}) scale(${scale})">${strings}
  <path d="M-26 -420 h52 M0 -430 v20" stroke="#7a5a36" stroke-width="7" stroke-linecap="round"/>
  <path d="M-16 0 l${swing * 0.3} -52 M16 0 l${-swing * 0.3} -52" stroke="#2a211d" stroke-width="13" stroke-linecap="round"/>
  <path d="M-30 -40 Q0 -160 30 -40 Q0 -26 -30 -40Z" fill="${clothes}"/><path d="M-30 -40 Q0 -26 30 -40 l-3 -12 Q0 -40 -27 -52Z" fill="#fff3" />
  <path d="M-18 -106 Q-40 -100 -46 ${-84 - Math.abs(lift)} M18 -106 Q40 -100 46 ${-84 - Math.abs(lift)}" stroke="${clothes}" stroke-width="13" fill="none" stroke-linecap="round"/>
  <circle cx="-46" cy="${-84 - Math.abs(lift)}" r="7" fill="${skin}"/><circle cx="46" cy="${-84 - Math.abs(lift)}" r="7" fill="${skin}"/>
  <circle cy="-146" r="29" fill="${skin}"/><path d="M-30 -150 Q-26 -186 0 -182 Q28 -186 30 -150 Q14 -168 -30 -150Z" fill="${hair}"/>
  <circle cx="-10" cy="-146" r="3.6" fill="#20242b"/><circle cx="11" cy="-146" r="3.6" fill="#20242b"/><circle cx="-17" cy="-134" r="5" fill="#d9705a" opacity=".5"/><circle cx="18" cy="-134" r="5" fill="#d9705a" opacity=".5"/>
  <path d="M-9 -131 q9 ${4 + random() * 6} 18 0" stroke="#5a2a22" stroke-width="2.6" fill="none" stroke-linecap="round"/></g>`;
}

function wagon(random: Random, x: number, ground: number, scale: number): string {
  const body = pick(random, CLOTHES);
  const wheel = (cx: number) =>
    `<circle cx="${cx}" cy="-18" r="27" fill="#2a211d"/><circle cx="${cx}" cy="-18" r="19" fill="none" stroke="#c99a4a" stroke-width="4"/><path d="M${cx - 18} -18 h36 M${cx} -36 v36" stroke="#c99a4a" stroke-width="3"/>`;
  return `<g transform="translate(${x} ${ground}) scale(${scale})"><rect x="-128" y="-150" width="256" height="118" rx="10" fill="${body}"/>
  <path d="M-146 -148 Q0 -226 146 -148Z" fill="#34262a"/><rect x="-100" y="-122" width="58" height="50" rx="4" fill="#ffe6a3"/><rect x="-18" y="-122" width="58" height="50" rx="4" fill="#ffe6a3"/>
  <path d="M-71 -122 v50 M-100 -97 h58 M11 -122 v50 M-18 -97 h58" stroke="#34262a" stroke-width="3"/><rect x="62" y="-126" width="46" height="94" rx="4" fill="#34262a"/><circle cx="98" cy="-78" r="3.5" fill="#ffe6a3"/>
  <path d="M128 -52 h66" stroke="#34262a" stroke-width="7"/>${wheel(-84)}${wheel(84)}</g>`;
}

function curtains(random: Random): string {
  const colour = pick(random, ["#8f2f2f", "#7a2440", "#24506a", "#3f5a34"]);
  const folds = (from: number, direction: number) =>
    Array.from(
      { length: 5 },
      (_, index) =>
        `<path d="M${from + direction * index * 26} 0 q${direction * 26} 390 0 768 h${direction * 26} q${direction * 16} -390 0 -768Z" fill="${index % 2 ? "#0003" : "#0000"}"/>`,
    ).join("");
  return `<path d="M0 0 h134 Q150 400 92 768 H0Z M1024 0 h-134 Q874 400 932 768 h92Z" fill="${colour}"/>${folds(0, 1)}${folds(1024, -1)}
  <path d="M0 0 H1024 V46 ${Array.from({ length: 8 }, () => "q-64 54 -128 0").join(" ")}Z" fill="${colour}"/><path d="M0 46 ${Array.from({ length: 8 }, () => "q64 54 128 0").join(" ")}" stroke="#e0b45a" stroke-width="6" fill="none"/>`;
}

const floor = (random: Random): string =>
  `<path d="M0 768 V640 H1024 V768Z" fill="${pick(random, ["#5a3f2a", "#4a3440", "#3d4238"])}"/>${Array.from({ length: 9 }, (_, index) => `<path d="M${index * 128} 640 l${(index - 4) * 22} 128" stroke="#0004" stroke-width="3"/>`).join("")}`;

function poster(random: Random): string {
  const title = pick(random, TITLES);
  const frame = pick(random, ["#a5403a", "#2a6078", "#c9a24a", "#3f5a34"]);
  return `<g transform="translate(512 400) rotate(${(random() - 0.5) * 5})"><rect x="-228" y="-300" width="456" height="600" fill="#0003" transform="translate(12 14)"/><rect x="-228" y="-300" width="456" height="600" fill="${frame}"/><rect x="-202" y="-274" width="404" height="548" fill="#f6ead0"/>
  <text y="-170" text-anchor="middle" font-family="DejaVu Serif, serif" font-size="${title.length > 9 ? 44 : 62}" font-weight="bold" fill="#20242b">${title.replace("&", "&amp;")}</text>
  <path d="M30 -92 a92 92 0 1 0 70 150 a74 74 0 1 1 -70 -150Z" fill="${pick(random, ["#2a6078", "#d99a2b", "#7a2a2f"])}"/>
  <text y="178" text-anchor="middle" font-family="DejaVu Serif, serif" font-size="26" fill="#20242b">a play with strings</text><text y="224" text-anchor="middle" font-family="DejaVu Sans, sans-serif" font-size="19" fill="#20242b">Wagon Theatre · market square · ${1 + Math.floor(random() * 9)} May</text></g>`;
}

/** One picture as an SVG document of 1024 × 768. The same number draws the same picture. */
export function drawScene(scene: Scene, number: number): string {
  const random = seeded(number * 7919 + 17);
  const parts = [sky(random)];
  if (scene === "road") {
    parts.push(hills(random), wagon(random, 260 + random() * 480, 650, 1.1 + random() * 0.7));
    if (random() < 0.5) parts.push(puppet(random, 170 + random() * 160, 690, 0.8));
  } else if (scene === "poster") {
    parts.push(hills(random), poster(random));
  } else {
    if (scene === "stage") parts.push(hills(random));
    parts.push(floor(random));
    const many = 1 + Math.floor(random() * 3);
    for (let index = 0; index < many; index++)
      parts.push(puppet(random, 250 + ((index + 0.5) * 520) / many + (random() - 0.5) * 60, 690, 1.1 + random() * 0.5));
    parts.push(curtains(random));
  }
  return `<svg xmlns="http://www.w3.org/2000/svg" width="1024" height="768" viewBox="0 0 1024 768">${parts.join("\n")}</svg>`;
}
