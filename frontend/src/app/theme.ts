import { createTheme, type MantineColorsTuple } from "@mantine/core";

const indigo: MantineColorsTuple = [
  "#eef0f8",
  "#d9ddee",
  "#b3bcdf",
  "#8fa2e0",
  "#6f80bd",
  "#55669f",
  "#33406f",
  "#2b3660",
  "#222b4e",
  "#181f3a",
];

export const theme = createTheme({
  colors: { indigo },
  primaryColor: "indigo",
  primaryShade: { light: 6, dark: 3 },
  fontFamily: '"Atkinson Hyperlegible", sans-serif',
  headings: { fontFamily: '"Fraunces Variable", serif', fontWeight: "600" },
  defaultRadius: 6,
  autoContrast: true,
  respectReducedMotion: true,
});
