package org.hollin.desk.app;

import org.hollin.desk.domain.Bulletin;

/** Lays a bulletin out as plain text. */
public class BulletinText {

    private final int width;

    public BulletinText(int width) {
        this.width = width;
    }

    public String render(Bulletin bulletin) {
        StringBuilder text = new StringBuilder();
        text.append(bulletin.getValley().name()).append("  ").append(bulletin.getLevel()).append('\n');
        text.append("-".repeat(width)).append('\n');
        for (String line : bulletin.getAdvice()) {
            text.append(new LineBreaker(width).wrap(line)).append('\n');
        }
        return text.toString();
    }

    private static class LineBreaker {

        private final int width;

        LineBreaker(int width) {
            this.width = width;
        }

        String wrap(String line) {
            return line.length() <= width ? line : line.substring(0, width) + "\n" + wrap(line.substring(width));
        }
    }
}
