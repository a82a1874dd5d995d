/** Width and height of screens, by their names. */
export const SCREENS: Record<string, [number, number]> = { '9:16': [9, 16], '3:4': [3, 4], '1:1': [1, 1], '16:9': [16, 9] }
