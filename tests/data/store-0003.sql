CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
CREATE TABLE scene (
	id INTEGER NOT NULL, 
	slug VARCHAR(100) NOT NULL, 
	created_at VARCHAR(32) NOT NULL, 
	head_id INTEGER, 
	PRIMARY KEY (id), 
	UNIQUE (slug), 
	CONSTRAINT fk_scene_head FOREIGN KEY(head_id) REFERENCES revision (id)
);
CREATE TABLE revision (
	id INTEGER NOT NULL, 
	scene_id INTEGER NOT NULL, 
	number INTEGER NOT NULL, 
	parent_id INTEGER, 
	document TEXT NOT NULL, 
	note VARCHAR(200) NOT NULL, 
	set_aside BOOLEAN NOT NULL, 
	created_at VARCHAR(32) NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (scene_id, number), 
	FOREIGN KEY(scene_id) REFERENCES scene (id), 
	FOREIGN KEY(parent_id) REFERENCES revision (id)
);
CREATE INDEX ix_revision_parent_id ON revision (parent_id);
CREATE INDEX ix_revision_scene_id ON revision (scene_id);
CREATE TABLE batch (
	id INTEGER NOT NULL, 
	scene_id INTEGER NOT NULL, 
	revision_id INTEGER NOT NULL, 
	batch VARCHAR(80) NOT NULL, 
	lift VARCHAR(64) NOT NULL, 
	planned JSON NOT NULL, 
	actual JSON NOT NULL, 
	temp_c DOUBLE NOT NULL, 
	rh DOUBLE NOT NULL, 
	started_at VARCHAR(32) NOT NULL, 
	finished_at VARCHAR(32), 
	note VARCHAR(500) NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(scene_id) REFERENCES scene (id), 
	FOREIGN KEY(revision_id) REFERENCES revision (id)
);
CREATE INDEX ix_batch_scene_id ON batch (scene_id);
CREATE TABLE step_event (
	id INTEGER NOT NULL, 
	scene_id INTEGER NOT NULL, 
	revision_id INTEGER NOT NULL, 
	step VARCHAR(80) NOT NULL, 
	lift VARCHAR(64), 
	what VARCHAR(20) NOT NULL, 
	planned JSON NOT NULL, 
	at VARCHAR(32) NOT NULL, note VARCHAR(500) DEFAULT '' NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(scene_id) REFERENCES scene (id), 
	FOREIGN KEY(revision_id) REFERENCES revision (id)
);
CREATE INDEX ix_step_event_scene_id ON step_event (scene_id);
CREATE TABLE setting (
	name VARCHAR(40) NOT NULL, 
	value JSON NOT NULL, 
	PRIMARY KEY (name)
);
CREATE TABLE blob (
	digest VARCHAR(64) NOT NULL, 
	content TEXT NOT NULL, 
	PRIMARY KEY (digest)
);
CREATE TABLE clock (
	scene_id INTEGER NOT NULL, 
	asked JSON NOT NULL, 
	token VARCHAR(64) NOT NULL, 
	PRIMARY KEY (scene_id), 
	FOREIGN KEY(scene_id) REFERENCES scene (id), 
	UNIQUE (token)
);
CREATE TABLE forecast (
	id INTEGER NOT NULL, 
	scene_id INTEGER NOT NULL, 
	at VARCHAR(32) NOT NULL, 
	question VARCHAR(64) NOT NULL, 
	cause VARCHAR(200) NOT NULL, 
	made JSON NOT NULL, 
	options JSON NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(scene_id) REFERENCES scene (id)
);
CREATE INDEX ix_forecast_scene_id ON forecast (scene_id);
insert into alembic_version values ('0003');
insert into revision values (1,1,1,null,'{"isostasis":1,"name":"Tarn","grid_mm":2,"base":{"width_mm":300,"depth_mm":200,"board":"plywood-9","dammed":["south"],"joints_x_mm":[],"tilt_mm_per_m":[0,0]},"room":{"temp_c":21,"rh":0.5},"forms":[{"id":"slab","kind":"sheet","outline":[[0,0],[300,0],[300,200],[0,200]],"thickness_mm":25,"material":"foam-xps"},{"id":"bank","kind":"sheet","outline":[[0,140],[300,140],[300,200],[0,200]],"thickness_mm":25,"material":"foam-xps"},{"id":"hole","kind":"basin","outline":[[50,30],[250,30],[250,130],[50,130]],"depth_mm":10,"bank_deg":45}],"patches":[{"id":"tarn","name":"Tarn","area":{"outline":[[40,20],[260,20],[260,136],[40,136]]},"lifts":[{"id":"tarn-skin","kind":"skin","mix":"paper-plaster","depth_mm":3},{"id":"tarn-seal","kind":"coat","material":"acrylic-sealer","coats":2},{"id":"tarn-water","kind":"pour","mix":"casting-resin","level_mm":24,"tint":[{"material":"acrylic-ink-blue","drops_per_100_ml":1}]}]},{"id":"rest","name":"Banks","area":{"rest":true},"lifts":[{"id":"bank-shell","kind":"shell","material":"plaster-cloth","layers":2},{"id":"bank-soil","kind":"texture","mix":"quarry-dust","depth_mm":2},{"id":"bank-fix","kind":"fix","mix":"glue-water-1-1","wetting":"alcohol-water-1-1"}]}],"mixes":[],"materials":[]}','Demo scene',0,'2026-02-27T19:00:00.000000+00:00');
insert into scene values (1,'tarn','2026-02-27T19:00:00.000000+00:00',1);
insert into batch values (2,1,1,'floor-skin-1-1','floor-skin','{"lift": "floor-skin", "layer": 1, "mix": "paper-plaster", "volume_ml": 1123.9232634042385, "working_min": 20.626807424000535, "feeds": [["floor-skin", 1, 761.7740289058943], ["lake-skin", 1, 314.927898989575], ["sump-skin", 1, 47.221335508769236]], "ingredients": [{"key": "paper-fibre-powder:", "material": "paper-fibre-powder", "part": null, "volume_ml": 1229.1150242277286, "mass_g": 860.3805169594099, "drops": null}, {"key": "water:", "material": "water", "part": null, "volume_ml": 614.5575121138643, "mass_g": 614.5575121138643, "drops": null}]}','{"paper-fibre-powder:": 851.8, "water:": 608.4}',18.5,0.56,'2026-03-02T14:30:00.000000+00:00','2026-03-02T14:48:00.000000+00:00','');
insert into step_event values (1,1,1,'form-ground-sheet',null,'done','{"do": "Cut the sheet Ground sheet", "wait_h": 0.0, "hands_on_min": 25.7, "layer": null, "volume_ml": null}','2026-02-27T21:00:00.000000+00:00','');
insert into step_event values (14,1,1,'cast-slate-slabs-1',null,'done','{"do": "Cast Slate slabs, round 1 of 3: fill the moulds, tap the bubbles out, strike the backs level", "wait_h": 0.689007742724509, "hands_on_min": 13.0, "layer": 1, "volume_ml": null}','2026-02-28T07:24:00.000000+00:00','');
insert into step_event values (24,1,1,'floor-skin','floor-skin','done','{"do": "Mix and lay paper-fibre compound on Quarry floor, 3 mm", "wait_h": 16.479291011146106, "hands_on_min": 22.89046361304839, "layer": 1, "volume_ml": 713.4278167829034}','2026-03-02T14:48:00.000000+00:00','');
