import { createTheme, type Theme } from "@mui/material/styles";

export type Scheme = "light" | "dark";
const TEXT = "Barlow, sans-serif";

/** Our theme: dense, quiet, no ripples, nothing lifted off the page by shadows. */
export function themeFor(scheme: Scheme): Theme {
  const dark = scheme === "dark";
  const line = dark ? "#3a4d55" : "#b9c6ca";
  const off = dark ? "#8a9ca4" : "#6b7a81";
  return createTheme({
    palette: {
      mode: scheme,
      primary: dark ? { main: "#6fc3d3", contrastText: "#0b2029" } : { main: "#0f5c6e", contrastText: "#ffffff" },
      error: { main: dark ? "#ff9a8a" : "#a3231b" },
      text: { primary: dark ? "#e4ecee" : "#18262e", secondary: dark ? "#a9bac1" : "#53646c", disabled: off },
      // what cannot be used is still read (3 : 1 and more), and says why when one points at it
      action: {
        disabled: off,
        disabledBackground: dark ? "#24333a" : "#e6ebec",
        disabledOpacity: 0.65,
      },
      background: { default: dark ? "#10191d" : "#ffffff", paper: dark ? "#142126" : "#ffffff" },
      divider: dark ? "#2a3a41" : "#dde3e4",
    },
    shape: { borderRadius: 5 },
    typography: { fontFamily: TEXT, fontSize: 13, button: { textTransform: "none", fontWeight: 500 } },
    transitions: { create: () => "none" },
    components: {
      MuiButtonBase: {
        defaultProps: { disableRipple: true },
        styleOverrides: { root: { "&.Mui-disabled": { pointerEvents: "auto", cursor: "default" } } },
      },
      MuiButton: {
        defaultProps: { size: "small", disableElevation: true },
        styleOverrides: {
          root: { padding: "3px 11px", fontSize: 13, lineHeight: 1.6, minWidth: 0, whiteSpace: "nowrap" },
          outlined: { borderColor: line, color: dark ? "#e4ecee" : "#18262e" },
        },
      },
      MuiTooltip: { defaultProps: { disableInteractive: true, enterDelay: 400 } },
      MuiTextField: { defaultProps: { size: "small", variant: "outlined", fullWidth: true } },
      MuiOutlinedInput: {
        styleOverrides: {
          multiline: { padding: "1px 0" },
          root: { fontSize: 13.5, background: dark ? "#10191d" : "#ffffff" },
          input: { padding: "6px 9px" },
        },
      },
      MuiInputLabel: {
        styleOverrides: {
          outlined: {
            fontSize: 13.5,
            transform: "translate(10px, 6px) scale(1)",
            maxWidth: "calc(100% - 20px)",
            "&.MuiInputLabel-shrink": { transform: "translate(12px, -8px) scale(0.75)", maxWidth: "calc(133% - 26px)" },
          },
        },
      },
      MuiMenuItem: { styleOverrides: { root: { fontSize: 13.5, minHeight: 30, paddingTop: 3, paddingBottom: 3 } } },
      MuiCheckbox: { defaultProps: { size: "small" }, styleOverrides: { root: { padding: 3 } } },
      MuiDialog: { defaultProps: { transitionDuration: 0 } },
      MuiMenu: { defaultProps: { transitionDuration: 0 } },
      MuiPaper: { styleOverrides: { root: { backgroundImage: "none" } } },
    },
  });
}
