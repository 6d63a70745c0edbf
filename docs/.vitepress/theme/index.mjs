import '@fontsource-variable/source-code-pro';
import '@fontsource-variable/source-sans-3';
import '@fontsource-variable/source-serif-4';
import theme from 'vitepress/theme-without-fonts';
import './style.css';

export default theme;
