import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { Button } from './basics.tsx';

type Theme = 'light' | 'dark';

const chosen = (): Theme =>
  (localStorage.getItem('theme') as Theme | null) ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light');

export function applyTheme(theme: Theme = chosen()): void {
  document.documentElement.dataset['theme'] = theme;
}

export function ThemeButton() {
  const [theme, setTheme] = useState(chosen);
  const other = theme === 'dark' ? 'light' : 'dark';
  const change = () => {
    localStorage.setItem('theme', other);
    applyTheme(other);
    setTheme(other);
  };
  return (
    <Button quiet onClick={change} aria-label={`Change to ${other} colours`}>
      {theme === 'dark' ? <Sun size={16} aria-hidden /> : <Moon size={16} aria-hidden />}
    </Button>
  );
}
