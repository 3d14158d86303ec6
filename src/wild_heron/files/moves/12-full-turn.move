{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Full turn",
  "line": "Once round, evenly: it loops.",
  "tags": [
   "calm",
   "turn",
   "loop"
  ],
  "frames": 240.0,
  "nodes": [
   {
    "kind": "null",
    "id": "turn",
    "name": "Turn",
    "channels": [
     {
      "name": "rotation.x",
      "value": -8.0
     },
     {
      "name": "rotation.y",
      "value": 0.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 0.0,
        "span": {
         "type": "linear"
        }
       },
       {
        "frame": 240.0,
        "value": 360.0,
        "span": {
         "type": "linear"
        }
       }
      ]
     }
    ],
    "colour": "#8fbf9f"
   },
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "carrier": "turn",
    "channels": [
     {
      "name": "position.z",
      "value": 3.4
     }
    ]
   }
  ],
  "camera": "camera",
  "rest": "start",
  "focuses": true
 }
}
