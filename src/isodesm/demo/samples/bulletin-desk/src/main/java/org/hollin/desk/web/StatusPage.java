package org.hollin.desk.web;

import java.util.Map;

import org.hollin.desk.domain.Valley;
import org.hollin.desk.infra.BulletinArchive;

/** A line a valley for the operations screen. */
public class StatusPage {

    public String show(Map<String, Valley> valleys) {
        StringBuilder page = new StringBuilder();
        for (Valley valley : valleys.values()) {
            var bulletin = BulletinArchive.getInstance().latest(valley.code());
            page.append(valley.name()).append(": ").append(bulletin == null ? "none" : bulletin.getLevel()).append('\n');
        }
        return page.toString();
    }
}
