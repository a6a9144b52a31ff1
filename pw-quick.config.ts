import base from '/work/main/playwright.config';
export default { ...base, timeout: 300_000, expect: { timeout: 45_000 } };
