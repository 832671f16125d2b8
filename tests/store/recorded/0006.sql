SET FOREIGN_KEY_CHECKS = 0;
CREATE TABLE `alembic_version` (
  `version_num` varchar(32) NOT NULL,
  PRIMARY KEY (`version_num`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO alembic_version VALUES ('0006');
CREATE TABLE `exports` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `picture_id` int(11) NOT NULL,
  `entry_id` int(11) NOT NULL,
  `format` varchar(8) NOT NULL,
  `quality` int(11) NOT NULL,
  `state` varchar(12) NOT NULL,
  `problem` text DEFAULT NULL,
  `width` int(11) DEFAULT NULL,
  `height` int(11) DEFAULT NULL,
  `byte_size` bigint(20) DEFAULT NULL,
  `empty_pixels` bigint(20) DEFAULT NULL,
  `created_at` datetime NOT NULL,
  `finished_at` datetime DEFAULT NULL,
  `options` longtext DEFAULT NULL CHECK (json_valid(`options`)),
  `file_name` varchar(255) DEFAULT NULL,
  `filled_share` double DEFAULT NULL,
  PRIMARY KEY (`id`),
  KEY `fk_exports_entry_id` (`entry_id`),
  KEY `ix_exports_picture_id` (`picture_id`),
  KEY `ix_exports_state` (`state`),
  CONSTRAINT `fk_exports_entry_id` FOREIGN KEY (`entry_id`) REFERENCES `ledger_entries` (`id`),
  CONSTRAINT `fk_exports_picture_id` FOREIGN KEY (`picture_id`) REFERENCES `pictures` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO exports VALUES (1, 1, 3, 'png', 95, 'done', NULL, 115, 77, 26710, 0, '2026-11-28 18:02:54', '2026-11-28 18:02:54', '{\"format\": \"png\"}', 'p0-levelled.png', 0.0e0);
CREATE TABLE `ledger_entries` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `picture_id` int(11) NOT NULL,
  `parent_id` int(11) DEFAULT NULL,
  `what` varchar(200) NOT NULL,
  `recipe` longtext NOT NULL CHECK (json_valid(`recipe`)),
  `roll_deg` double NOT NULL,
  `kept_fraction` double NOT NULL,
  `created_at` datetime NOT NULL,
  `lean_deg` double NOT NULL DEFAULT 0,
  `swing_deg` double NOT NULL DEFAULT 0,
  `recipe_hash` varchar(32) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `ix_ledger_entries_parent_id` (`parent_id`),
  KEY `ix_ledger_entries_picture_id` (`picture_id`),
  KEY `ix_ledger_entries_recipe_hash` (`recipe_hash`),
  CONSTRAINT `fk_ledger_entries_parent_id` FOREIGN KEY (`parent_id`) REFERENCES `ledger_entries` (`id`),
  CONSTRAINT `fk_ledger_entries_picture_id` FOREIGN KEY (`picture_id`) REFERENCES `pictures` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=5 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO ledger_entries VALUES (1, 1, NULL, 'as shot', '{\"version\": 3, \"readings\": [], \"trim\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}}', 0.0e0, 1.0e0, '2026-11-28 18:02:54', 0.0e0, 0.0e0, 'ff201fa36f2721b743961035cccbc05a');
INSERT INTO ledger_entries VALUES (2, 2, NULL, 'as shot', '{\"version\": 3, \"readings\": [], \"trim\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}}', 0.0e0, 1.0e0, '2026-11-28 18:02:54', 0.0e0, 0.0e0, 'ff201fa36f2721b743961035cccbc05a');
INSERT INTO ledger_entries VALUES (3, 1, 1, 'turned by hand', '{\"version\": 3, \"readings\": [], \"trim\": {\"roll_deg\": 1.5, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}}', 1.5000000000000002e0, 0.9223958333333333e0, '2026-11-28 18:02:54', 0.0e0, 0.0e0, '7811eaa975f7825aa7c1d624bb0b7c51');
INSERT INTO ledger_entries VALUES (4, 1, 3, 'turned by hand', '{\"version\": 3, \"readings\": [], \"trim\": {\"roll_deg\": 2.5, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}}', 2.5e0, 0.8749999999999997e0, '2026-11-28 18:02:54', 0.0e0, 0.0e0, 'fb48e64bbfdc42795d64f36162db2c85');
CREATE TABLE `originals` (
  `sha256` varchar(64) NOT NULL,
  `byte_size` bigint(20) NOT NULL,
  `format` varchar(8) NOT NULL,
  `width` int(11) NOT NULL,
  `height` int(11) NOT NULL,
  `channels` int(11) NOT NULL,
  `bits` int(11) NOT NULL,
  `orientation` int(11) NOT NULL,
  `profile` varchar(200) DEFAULT NULL,
  `focal35_mm` double DEFAULT NULL,
  `created_at` datetime NOT NULL,
  `damage` varchar(200) DEFAULT NULL,
  `verified_at` datetime DEFAULT NULL,
  `focal_source` varchar(8) DEFAULT NULL,
  PRIMARY KEY (`sha256`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO originals VALUES ('0000000000000000000000000000000000000000000000000000000000000001', 28948, 'PNG', 120, 80, 3, 8, 1, NULL, NULL, '2026-11-28 18:02:40', NULL, NULL, NULL);
INSERT INTO originals VALUES ('0000000000000000000000000000000000000000000000000000000000000002', 28949, 'PNG', 121, 80, 3, 8, 1, NULL, NULL, '2026-11-28 18:02:54', NULL, NULL, NULL);
CREATE TABLE `picture_sets` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `name` varchar(120) NOT NULL,
  `created_at` datetime NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `uq_picture_sets_name` (`name`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO picture_sets VALUES (1, 'Coast', '2026-11-28 18:02:40');
CREATE TABLE `pictures` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `set_id` int(11) NOT NULL,
  `original_sha256` varchar(64) NOT NULL,
  `name` varchar(255) NOT NULL,
  `head_id` int(11) DEFAULT NULL,
  `added_at` datetime NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `uq_pictures_set_id_original_sha256` (`set_id`,`original_sha256`),
  KEY `ix_pictures_original_sha256` (`original_sha256`),
  KEY `fk_pictures_head_id` (`head_id`),
  CONSTRAINT `fk_pictures_head_id` FOREIGN KEY (`head_id`) REFERENCES `ledger_entries` (`id`),
  CONSTRAINT `fk_pictures_original_sha256` FOREIGN KEY (`original_sha256`) REFERENCES `originals` (`sha256`),
  CONSTRAINT `fk_pictures_set_id` FOREIGN KEY (`set_id`) REFERENCES `picture_sets` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=3 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO pictures VALUES (1, 1, '0000000000000000000000000000000000000000000000000000000000000001', 'p0.png', 3, '2026-11-28 18:02:40');
INSERT INTO pictures VALUES (2, 1, '0000000000000000000000000000000000000000000000000000000000000002', 'p1.png', 2, '2026-11-28 18:02:54');
CREATE TABLE `print_sizes` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `name` varchar(80) NOT NULL,
  `width` double NOT NULL,
  `height` double NOT NULL,
  `unit` varchar(2) NOT NULL,
  `ppi` double NOT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
CREATE TABLE `receipts` (
  `token` varchar(32) NOT NULL,
  `made_at` datetime NOT NULL,
  PRIMARY KEY (`token`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
SET FOREIGN_KEY_CHECKS = 1;
