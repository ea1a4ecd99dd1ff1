'use client';

export { ScreenFault as default } from '../../../ui/platform/ScreenFault';
